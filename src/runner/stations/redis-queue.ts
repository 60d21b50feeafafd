import { randomUUID } from 'node:crypto'
import { type Job, Worker } from 'bullmq'
import type { Redis } from 'ioredis'
import type { ErrorReport } from '@/base/errors'
import type { PictureOutcome } from '../messages'
import type { Claim, WorkQueue } from '../queue'
import type { StationAnswer, StationJob } from './messages'
import { keyPrefix, queueName, RedisAwayError, within } from './redis'

/** A station that is silent for longer loses its pictures. */
export const defaultLeaseMs = 30_000
const patienceMs = 5_000

export interface RedisQueueOptions {
  readonly redis: Redis
  /** What this machine's build is: work for another one is left alone. */
  readonly build: string
  readonly leaseMs?: number
  onProblem?(problem: unknown): void
  /** Work for another build came by. */
  onOtherBuild?(): void
}

type PictureOfQueue = Job<StationJob, StationAnswer>

/** Gives an answer for a picture that was taken under a lock. */
const giver =
  (job: PictureOfQueue, lock: string) =>
  (answer: StationAnswer): Promise<unknown> =>
    job.moveToCompleted(answer, lock, false)

/** A picture in hand as Redis knows it. */
interface Held {
  readonly claim: Claim
  readonly jobId: string
  /** Of this very claim. */
  readonly lock: string
  give(answer: StationAnswer): Promise<unknown>
  /** What came of it, while Redis could not be told. */
  answer?: StationAnswer
}

/**
 * A station's end of the queue that machines share: BullMQ on Redis. It gives pictures under a lock that has to be renewed;
 * one whose lock ran out is given to nobody else before the main machine has counted that.
 */
export class RedisQueue implements WorkQueue {
  private readonly worker: Worker<StationJob, StationAnswer>
  private readonly held = new Map<Claim, Held>()
  private readonly leaseMs: number
  private claims = 0
  /** This very process: one that was started anew in the same place is another. */
  private readonly life = randomUUID()

  constructor(private readonly options: RedisQueueOptions) {
    this.leaseMs = options.leaseMs ?? defaultLeaseMs
    this.worker = new Worker(queueName, null, {
      connection: options.redis,
      prefix: keyPrefix,
      autorun: false,
      lockDuration: this.leaseMs,
      // The main machine alone looks for stations that were lost, and counts them.
      skipStalledCheck: true,
      skipLockRenewal: true,
    })
    this.worker.on('error', (error) => options.onProblem?.(error))
  }

  get inHand(): number {
    return this.held.size
  }

  async claim(): Promise<Claim | undefined> {
    for (;;) {
      const lock = `${this.life}-${++this.claims}`
      const job = await this.nextJob(lock)
      if (!job) return undefined
      const give = giver(job, lock)
      const { task, crashes, runNumber, build } = job.data
      if (job.stalledCounter > 0) await within(patienceMs, give({ kind: 'stationLost' }))
      else if (build !== this.options.build) {
        await within(patienceMs, give({ kind: 'putBack' }))
        this.options.onOtherBuild?.()
        return undefined
      } else {
        const claim = { task, crashes, runNumber }
        this.held.set(claim, { claim, jobId: job.id ?? '', lock, give })
        return claim
      }
    }
  }

  /** One that comes too late goes back at once: nobody would work on it. */
  private async nextJob(lock: string): Promise<PictureOfQueue | undefined> {
    const next = this.worker.getNextJob(lock, { block: false })
    try {
      return await within(patienceMs, next)
    } catch (error) {
      next.then((late) => late && giver(late, lock)({ kind: 'putBack' })).catch(() => undefined)
      throw error
    }
  }

  async holds(claim: Claim): Promise<boolean> {
    const held = this.held.get(claim)
    if (!held || held.answer) return false
    return (await this.renew([held])).length === 0
  }

  finish(claim: Claim, outcome: PictureOutcome): Promise<void> {
    return this.say(claim, { kind: 'finished', outcome })
  }

  giveBack(claim: Claim): Promise<void> {
    return this.say(claim, { kind: 'workerLost' })
  }

  putBack(claim: Claim): Promise<void> {
    return this.say(claim, { kind: 'putBack' })
  }

  holdUp(claim: Claim, reason: ErrorReport): Promise<void> {
    return this.say(claim, { kind: 'heldUp', reason })
  }

  async tend(): Promise<void> {
    await this.renew([...this.held.values()])
    for (const held of [...this.held.values()]) if (held.answer) await this.give(held)
  }

  async leave(): Promise<void> {
    await this.worker.close(true)
  }

  /** Gives an answer, or keeps it for the next beat while Redis is away. */
  private async say(claim: Claim, answer: StationAnswer): Promise<void> {
    const held = this.held.get(claim)
    if (!held || held.answer) return
    held.answer = answer
    await this.give(held)
  }

  private async give(held: Held): Promise<void> {
    if (!held.answer) return
    try {
      await within(patienceMs, held.give(held.answer))
      this.held.delete(held.claim)
    } catch (error) {
      this.options.onProblem?.(error)
      // What Redis refuses is somebody else's by now, or was given already; what it did not answer is said again.
      if (!(error instanceof RedisAwayError)) this.held.delete(held.claim)
    }
  }

  /** Prolongs locks. @returns ids of those that were lost */
  private async renew(claims: readonly Held[]): Promise<string[]> {
    if (claims.length === 0) return []
    const [ids, locks] = [claims.map(({ jobId }) => jobId), claims.map(({ lock }) => lock)]
    return within(patienceMs, this.worker.extendJobLocks(ids, locks, this.leaseMs))
  }
}
