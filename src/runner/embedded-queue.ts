import type { ErrorReport } from '@/base/errors'
import { Stillness } from '@/base/stillness'
import { isAlive } from '@/processes/alive'
import type { Database } from '@/store/database'
import { trimEvents } from '@/store/events'
import * as queue from '@/store/queue'
import { advanceRun, pausedRuns, type StoredItem, type StoredRun } from '@/store/runs'
import { claimOf } from './claims'
import { isMendable } from './messages'
import type { Claim, WorkQueue } from './queue'

const leaseMs = 60_000
/** A picture in whose company the whole runner died this often is given up. */
const maxInterruptions = 8
/** Runs held by a fault are tried again this often. */
const retryPausedMs = 10_000
/** Rows of runners that have been silent this long are dropped. */
const forgetAfterMs = 24 * 3600_000

/** A claimed picture as the database knows it again. */
type HeldItem = Pick<StoredItem, 'id' | 'token' | 'runId'>

const heldItem = ({ task: { itemId, token, runId } }: Claim): HeldItem => ({ id: itemId, token, runId })

export interface EmbeddedQueueOptions {
  readonly now?: () => number
  /** Milliseconds of a clock that nobody sets. */
  readonly steadyNow?: () => number
  /** What is to be done once no picture of a run is left and before it counts as done; it never fails. */
  readonly beforeEnd?: (run: StoredRun) => Promise<void> | undefined
  /** Clears what a lost worker may have left of a picture; it never fails. */
  readonly clearUnfinished?: (item: HeldItem) => void
  onProblem?(problem: unknown): void
}

/** The queue in the application's own database. */
export class EmbeddedQueue implements WorkQueue {
  private readonly inHand = new Map<number, Claim>()
  /** Answers that could not be given yet, by picture. */
  private readonly unanswered = new Map<number, () => void>()
  private readonly pausedFor: Stillness<string>
  private readonly stillFor: Stillness<string>
  private readonly ending = new Set<string>()

  constructor(
    private readonly db: Database,
    private readonly id: string,
    private readonly options: EmbeddedQueueOptions = {},
  ) {
    this.pausedFor = new Stillness(options.steadyNow)
    this.stillFor = new Stillness(options.steadyNow)
    this.beat(null)
  }

  private now(): number {
    return this.options.now?.() ?? Date.now()
  }

  async claim(): Promise<Claim | undefined> {
    const claimed = queue.claimItem(this.db, this.id, this.now(), leaseMs)
    if (!claimed) return undefined
    const claim = claimOf(claimed)
    this.inHand.set(claim.task.itemId, claim)
    return claim
  }

  async holds({ task }: Claim): Promise<boolean> {
    return queue.isHeld(this.db, task)
  }

  async finish(claim: Claim, outcome: queue.ItemOutcome): Promise<void> {
    this.answer(claim, (item) => queue.finishItem(this.db, item, outcome, this.now()))
  }

  async giveBack(claim: Claim): Promise<void> {
    this.options.clearUnfinished?.(heldItem(claim))
    this.answer(claim, (item) => queue.returnItem(this.db, item, 'crashes'))
  }

  async putBack(claim: Claim): Promise<void> {
    this.answer(claim, (item) => queue.returnItem(this.db, item, 'pause'))
  }

  async holdUp(claim: Claim, reason: ErrorReport): Promise<void> {
    this.answer(claim, (item) => {
      queue.returnItem(this.db, item, 'pause')
      advanceRun(this.db, item.runId, 'faulted', this.now(), reason)
    })
  }

  /** Gives an answer, or keeps it for the next beat while another program holds the database. */
  private answer(claim: Claim, write: (item: HeldItem) => void): void {
    const { itemId } = claim.task
    this.give(itemId, () => write(heldItem(claim)))
  }

  private give(itemId: number, give: () => void): void {
    try {
      give()
      this.unanswered.delete(itemId)
      this.inHand.delete(itemId)
    } catch (error) {
      this.options.onProblem?.(error)
      this.unanswered.set(itemId, give)
    }
  }

  async tend(trouble: string | null): Promise<void> {
    this.beat(trouble)
  }

  private beat(trouble: string | null): void {
    const now = this.now()
    queue.beat(this.db, { id: this.id, processId: process.pid, trouble }, now)
    for (const [itemId, give] of [...this.unanswered]) this.give(itemId, give)
    queue.renewLeases(this.db, this.id, [...this.inHand.keys()], now + leaseMs)
    this.takeBackLost(now)
    for (const run of queue.exhaustedRuns(this.db)) this.end(run)
    this.retryPaused(now)
    trimEvents(this.db)
  }

  async hasWork(): Promise<boolean> {
    return this.inHand.size > 0 || this.ending.size > 0 || queue.hasRunsToServe(this.db)
  }

  async leave(): Promise<void> {
    queue.leave(this.db, this.id)
  }

  private end(run: StoredRun): void {
    if (this.ending.has(run.id)) return
    const close = (): void => {
      try {
        if (run.state === 'waiting') advanceRun(this.db, run.id, 'claimed', this.now())
        advanceRun(this.db, run.id, 'finished', this.now())
      } catch (error) {
        // It is still exhausted: the next beat ends it.
        this.options.onProblem?.(error)
      } finally {
        this.ending.delete(run.id)
      }
    }
    this.ending.add(run.id)
    const before = this.options.beforeEnd?.(run)
    if (before !== undefined) void before.then(close)
    else close()
  }

  /** Pictures held by runners that are gone go back in line; one that keeps taking runners down is given up. */
  private takeBackLost(now: number): void {
    const runners = new Map(queue.otherRunners(this.db, this.id).map((runner) => [runner.id, runner]))
    const working = queue.itemsInWork(this.db)
    this.stillFor.keepOnly(working.map((item) => `${item.id} ${item.token}`))
    for (const item of working) {
      if (this.inHand.get(item.id)?.task.token === item.token) continue
      const owner = runners.get(item.owner ?? '')
      // A lease counts as run out once it has not been prolonged for as long as it lasts, by our own steady clock.
      const isStill = this.stillFor.of(`${item.id} ${item.token}`, item.leaseUntil ?? 0) > leaseMs
      if (owner && isAlive(owner.processId) && !isStill) continue
      this.options.clearUnfinished?.(item)
      if (item.interruptions + 1 < maxInterruptions) queue.returnItem(this.db, item, 'interruptions')
      else {
        const error: ErrorReport = { code: 'workerCrashed', details: { path: item.sourcePath, reason: 'the runner ended each time' } }
        queue.finishItem(this.db, item, { state: 'failed', milliseconds: 0, error, delivered: [] }, now)
      }
    }
    queue.forgetRunners(this.db, now - forgetAfterMs)
  }

  private retryPaused(now: number): void {
    const held = pausedRuns(this.db).filter((run) => isMendable(run.reason ?? undefined))
    this.pausedFor.keepOnly(held.map(({ id }) => id))
    for (const { id } of held) {
      if (this.pausedFor.of(id, 0) < retryPausedMs) continue
      this.pausedFor.forget(id)
      advanceRun(this.db, id, 'goOn', now)
    }
  }
}
