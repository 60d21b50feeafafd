import { Stillness } from '@/base/stillness'
import { isAlive } from '@/processes/alive'
import type { Database } from '@/store/database'
import { trimEvents } from '@/store/events'
import * as queue from '@/store/queue'
import { advanceRun, pausedRuns, type StoredRun } from '@/store/runs'
import { DatabaseClaims, type DatabaseClaimsOptions, leaseMs } from './database-claims'
import { isMendable } from './messages'
import type { WorkQueue } from './queue'

/** A picture in whose company the whole runner died this often is given up. */
const maxInterruptions = 8
/** Runs held by a fault are tried again this often. */
const retryPausedMs = 10_000
/** Rows of runners that have been silent this long are dropped. */
const forgetAfterMs = 24 * 3600_000

export interface EmbeddedQueueOptions extends DatabaseClaimsOptions {
  /** Milliseconds of a clock that nobody sets. */
  readonly steadyNow?: () => number
  /** What is to be done once no picture of a run is left and before it counts as done; it never fails. */
  readonly beforeEnd?: (run: StoredRun) => Promise<void> | undefined
}

/** The queue in the application's own database; it also keeps the runs: takes back what was lost, ends what is done, goes on after faults. */
export class EmbeddedQueue extends DatabaseClaims<EmbeddedQueueOptions> implements WorkQueue {
  private readonly pausedFor: Stillness<string>
  private readonly stillFor: Stillness<string>
  private readonly ending = new Set<string>()

  constructor(db: Database, id: string, options: EmbeddedQueueOptions = {}) {
    super(db, id, options)
    this.pausedFor = new Stillness(options.steadyNow)
    this.stillFor = new Stillness(options.steadyNow)
    this.keepRuns()
  }

  override async tend(trouble: string | null): Promise<void> {
    await super.tend(trouble)
    this.keepRuns()
  }

  /** Whether there is or will be something to do without a person's doing. */
  hasWork(): boolean {
    return this.handCount > 0 || this.ending.size > 0 || queue.hasRunsToServe(this.db)
  }

  private keepRuns(): void {
    const now = this.now()
    this.takeBackLost(now)
    for (const run of queue.exhaustedRuns(this.db)) this.end(run)
    this.retryPaused(now)
    trimEvents(this.db)
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
      if (this.isInHand(item)) continue
      const owner = runners.get(item.owner ?? '')
      // A lease counts as run out once it has not been prolonged for as long as it lasts, by our own steady clock.
      const isStill = this.stillFor.of(`${item.id} ${item.token}`, item.leaseUntil ?? 0) > leaseMs
      if (owner && isAlive(owner.processId) && !isStill) continue
      this.takeBack(item, { max: maxInterruptions, reason: 'the runner ended each time' })
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
