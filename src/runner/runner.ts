import type { Logger } from 'pino'
import { isMendable } from './messages'
import { WorkerLostError, type WorkerPool } from './pool'
import type { Claim, WorkQueue } from './queue'

/** How often the queue is looked at when nothing else wakes the runner. */
const pollMs = 300
const tendMs = 2_000
/** A picture whose worker died once is tried once more. */
const maxCrashes = 1

export interface RunnerOptions {
  readonly log: Logger
  /** Folders under which files may be opened and placed, as they are named now. */
  readonly roots: () => readonly string[]
}

/** Keeps the pool busy with claimed pictures until it is stopped. */
export class Runner {
  private stopping = false
  private readonly busy = new Set<Promise<void>>()
  private timers: NodeJS.Timeout[] = []
  /** Work is being taken now; `more`: since that began, another worker has become free. */
  private taking: Promise<void> | undefined
  private more = false

  constructor(
    private readonly queue: WorkQueue,
    private readonly pool: WorkerPool,
    private readonly options: RunnerOptions,
  ) {}

  start(): void {
    this.timers = [setInterval(() => this.fill(), pollMs), setInterval(() => void this.tend(), tendMs)]
    this.fill()
  }

  /** Gives every free worker a picture. */
  fill(): void {
    this.more = true
    this.taking ??= this.take().finally(() => {
      this.taking = undefined
    })
  }

  private async take(): Promise<void> {
    while (this.more) {
      this.more = false
      await this.guarded(async () => {
        while (!this.stopping && this.pool.freeCount > 0) {
          const claim = await this.queue.claim()
          if (!claim) return
          const work = this.work(claim).finally(() => {
            this.busy.delete(work)
            this.fill()
          })
          this.busy.add(work)
        }
      })
    }
  }

  /** Takes no new work and waits for what is in hand. */
  async stop(): Promise<void> {
    this.stopping = true
    for (const timer of this.timers) clearInterval(timer)
    // What was claimed in the meantime is in hand, too.
    await this.taking
    await Promise.all(this.busy)
    await this.tend()
    await this.guarded(() => this.queue.leave())
  }

  /** Signs of life, and what else is due. */
  tend(): Promise<void> {
    return this.guarded(() => this.queue.tend(this.pool.trouble))
  }

  private async work(claim: Claim): Promise<void> {
    const { log } = this.options
    try {
      const job = { ...claim.task, roots: this.options.roots() }
      const outcome = await this.pool.run(job, () => this.queue.holds(claim))
      if (outcome.error?.code === 'claimLost') {
        // Whoever holds the picture now answers for it; if nobody does, it is tried again.
        await this.queue.putBack(claim)
        log.warn({ path: claim.task.sourcePath }, 'a picture was taken over in the meantime')
      } else if (outcome.error && isMendable(outcome.error)) {
        await this.queue.holdUp(claim, outcome.error)
        log.warn({ run: claim.runNumber, ...outcome.error }, 'run paused')
      } else await this.queue.finish(claim, outcome)
    } catch (error) {
      await this.lost(claim, error)
    }
    await this.tend()
  }

  private async lost(claim: Claim, error: unknown): Promise<void> {
    const reason = error instanceof Error ? error.message : String(error)
    this.options.log.error(
      { path: claim.task.sourcePath, reason },
      error instanceof WorkerLostError ? 'worker lost; another takes its place' : 'work failed',
    )
    if (claim.crashes < maxCrashes) {
      await this.queue.giveBack(claim)
      return
    }
    const report = { code: 'workerCrashed', details: { path: claim.task.sourcePath, reason } } as const
    await this.queue.finish(claim, { state: 'failed', milliseconds: 0, error: report, delivered: [] })
  }

  /** The database may be locked by another program for a while: that is logged, and tried again at the next beat. */
  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work()
    } catch (error) {
      this.options.log.error(error, 'the queue did not answer')
    }
  }
}
