import { rmSync } from 'node:fs'
import type { ErrorReport } from '@/core/errors'
import type { Database } from '@/db/database'
import { trimEvents } from '@/db/events'
import * as queue from '@/db/queue'
import { advanceRun, pausedRuns, resultsOf, type StoredItem, type StoredRun } from '@/db/runs'
import { temporaryKey, temporaryPath } from '@/pictures/place'
import { isMendable } from './messages'
import type { WorkQueue } from './queue'

const leaseMs = 60_000
/** A picture in whose company the whole runner died this often is given up. */
const mostInterruptions = 8
/** Runs held by a fault are tried again this often. */
const retryPausedMs = 10_000
/** Rows of runners that have been silent this long are dropped. */
const forgetAfterMs = 24 * 3600_000

export interface EmbeddedQueueOptions {
  readonly now?: () => number
  /** What is to be done once no picture of a run is left and before it counts as done; it never fails. */
  readonly beforeEnd?: (run: StoredRun) => Promise<void> | undefined
}

/** The queue in the application's own database. */
export class EmbeddedQueue implements WorkQueue {
  private readonly pausedSince = new Map<string, number>()
  private readonly ending = new Set<string>()

  constructor(
    private readonly db: Database,
    private readonly id: string,
    private readonly options: EmbeddedQueueOptions = {},
  ) {
    this.tend()
  }

  private now(): number {
    return this.options.now?.() ?? Date.now()
  }

  claim(): queue.Claim | undefined {
    return queue.claimItem(this.db, this.id, this.now(), leaseMs)
  }

  finish(claim: queue.Claim, outcome: queue.ItemOutcome): boolean {
    return queue.finishItem(this.db, claim.item, outcome, this.now())
  }

  giveBack(claim: queue.Claim, why: 'crashes' | 'pause'): void {
    queue.returnItem(this.db, claim.item, why)
  }

  pause(runId: string, reason: ErrorReport): void {
    advanceRun(this.db, runId, 'faulted', this.now(), reason)
  }

  tend(): void {
    const now = this.now()
    queue.beat(this.db, { id: this.id, processId: process.pid }, now)
    queue.renewLeases(this.db, this.id, now + leaseMs)
    this.takeBackLost(now)
    for (const run of queue.exhaustedRuns(this.db)) this.end(run)
    this.retryPaused(now)
    trimEvents(this.db)
  }

  private end(run: StoredRun): void {
    if (this.ending.has(run.id)) return
    const close = (): void => {
      this.ending.delete(run.id)
      if (run.state === 'waiting') advanceRun(this.db, run.id, 'claimed', this.now())
      advanceRun(this.db, run.id, 'finished', this.now())
    }
    const before = this.options.beforeEnd?.(run)
    if (before) {
      this.ending.add(run.id)
      void before.then(close)
    } else close()
  }

  /** Pictures held by runners that are gone go back in line; one that keeps taking runners down is given up. */
  private takeBackLost(now: number): void {
    const others = queue.otherRunners(this.db, this.id)
    const dead = others.filter((runner) => !isAlive(runner.processId)).map((runner) => runner.id)
    for (const item of queue.lostItems(this.db, now, dead)) {
      this.removeUnfinished(item)
      if (item.interruptions + 1 < mostInterruptions) queue.returnItem(this.db, item, 'interruptions')
      else {
        const error: ErrorReport = { code: 'workerCrashed', details: { path: item.sourcePath, reason: 'the runner ended each time' } }
        queue.finishItem(this.db, item, { state: 'failed', milliseconds: 0, error, delivered: [] }, now)
      }
    }
    queue.forgetRunners(this.db, now - forgetAfterMs)
  }

  /** A killed worker may have left a part of a file under its temporary name. */
  private removeUnfinished({ id, runId }: StoredItem): void {
    for (const { id: resultId, targetPath } of resultsOf(this.db, id))
      rmSync(temporaryPath(targetPath, temporaryKey(runId, resultId)), { force: true })
  }

  private retryPaused(now: number): void {
    const held = pausedRuns(this.db).filter((run) => isMendable(run.reason ?? undefined))
    for (const id of this.pausedSince.keys()) if (!held.some((run) => run.id === id)) this.pausedSince.delete(id)
    for (const { id } of held) {
      const since = this.pausedSince.get(id) ?? now
      this.pausedSince.set(id, since)
      if (now - since < retryPausedMs) continue
      this.pausedSince.delete(id)
      advanceRun(this.db, id, 'goOn', now)
    }
  }
}

/** Whether a process of this machine is still there. */
function isAlive(processId: number): boolean {
  try {
    process.kill(processId, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
