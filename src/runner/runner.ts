import type { Logger } from 'pino'
import { completeDelivery } from '@/core/loop'
import type { Claim } from '@/db/queue'
import { isMendable, type PictureJob } from './messages'
import { WorkerLostError, type WorkerPool } from './pool'
import { allSteps } from './process-picture'
import type { WorkQueue } from './queue'

/** How often the queue is looked at when nothing else wakes the runner. */
const pollMs = 300
const tendMs = 2_000
/** A picture whose worker died once is tried once more. */
const mostCrashes = 1

/** Keeps the pool busy with claimed pictures until it is stopped. */
export class Runner {
  private stopping = false
  private readonly busy = new Set<Promise<void>>()
  private timers: NodeJS.Timeout[] = []

  constructor(
    private readonly queue: WorkQueue,
    private readonly pool: WorkerPool,
    private readonly log: Logger,
  ) {}

  start(): void {
    this.timers = [setInterval(() => this.fill(), pollMs), setInterval(() => this.guarded(() => this.queue.tend()), tendMs)]
    this.fill()
  }

  /** Gives every free worker a picture. */
  fill(): void {
    this.guarded(() => {
      while (!this.stopping && this.pool.freeCount > 0) {
        const claim = this.queue.claim()
        if (!claim) return
        const work = this.work(claim).finally(() => {
          this.busy.delete(work)
          this.fill()
        })
        this.busy.add(work)
      }
    })
  }

  /** Takes no new work and waits for what is in hand. */
  async stop(): Promise<void> {
    this.stopping = true
    for (const timer of this.timers) clearInterval(timer)
    await Promise.all(this.busy)
    this.guarded(() => this.queue.tend())
  }

  private async work(claim: Claim): Promise<void> {
    try {
      const outcome = await this.pool.run(jobOf(claim))
      if (outcome.error && isMendable(outcome.error)) {
        this.queue.giveBack(claim, 'pause')
        this.queue.pause(claim.run.id, outcome.error)
        this.log.warn({ run: claim.run.number, ...outcome.error }, 'run paused')
      } else if (!this.queue.finish(claim, outcome)) this.log.warn({ item: claim.item.id }, 'outcome came after its claim had ended')
      this.guarded(() => this.queue.tend())
    } catch (error) {
      this.guarded(() => this.lost(claim, error))
    }
  }

  private lost(claim: Claim, error: unknown): void {
    const reason = error instanceof Error ? error.message : String(error)
    this.log.error({ path: claim.item.sourcePath, reason }, error instanceof WorkerLostError ? 'worker lost' : 'work failed')
    if (claim.item.crashes < mostCrashes) {
      this.queue.giveBack(claim, 'crashes')
      return
    }
    const report = { code: 'workerCrashed', details: { path: claim.item.sourcePath, reason } } as const
    this.queue.finish(claim, { state: 'failed', milliseconds: 0, error: report, delivered: [] })
  }

  /** The database may be locked by another program for a while: that is logged, and tried again at the next beat. */
  private guarded(work: () => void): void {
    try {
      work()
    } catch (error) {
      this.log.error(error, 'the queue did not answer')
    }
  }
}

function jobOf({ run, item, results }: Claim): PictureJob {
  const { id: itemId, sourcePath, sizeBytes, modifiedMs } = item
  return {
    runId: run.id,
    itemId,
    sourcePath,
    sizeBytes,
    modifiedMs,
    steps: allSteps(run.macros),
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    targets: results.flatMap((result) => {
      const delivery = run.deliveries.find((candidate) => candidate.id === result.deliveryId)
      return delivery
        ? [{ resultId: result.id, path: result.targetPath, delivery: completeDelivery(delivery), replaces: result.replaces }]
        : []
    }),
  }
}
