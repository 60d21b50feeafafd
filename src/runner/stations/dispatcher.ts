import { type Job, Queue, Worker } from 'bullmq'
import type { DatabaseClaims } from '../database-claims'
import type { PictureOutcome } from '../messages'
import type { Claim } from '../queue'
import { readAnswer, type StationAnswer, type StationJob } from './messages'
import { jobIdOf, keyPrefix, queueName, RedisAwayError, SilenceWatch, within } from './redis'
import { defaultLeaseMs } from './redis-queue'
import { SignBoard, type SignBoardOptions } from './sign-board'

/** How often answers are taken and free places filled. */
const tickMs = 100
/** How often signs of life are given and read. */
const signMs = 2_000
/** How often it is looked whether what was given out should still be begun. */
const defaultLookMs = 400
/** How often it is looked whether Redis still has what it was given: it may have been started anew, with nothing in it. */
const compareMs = 10_000
/** Pictures that wait in Redis ahead of the stations, for each worker, and the least and the most of all. */
const aheadOfWorker = 2
const [minAhead, maxAhead] = [8, 400]
/** Answers that are taken at a time. */
const answersAtATime = 200
const patienceMs = 5_000
/** A picture in whose company this many stations were lost fails by itself: a plug that is pulled is no picture's fault. */
const lossLimit = { max: 4, reason: 'the station that worked on it was lost each time' }

const redisAway = 'Redis does not answer. The stations are waited for; this machine goes on alone.'

export interface DispatcherOptions extends SignBoardOptions {
  readonly leaseMs?: number
  readonly lookMs?: number
  /** Answers were written: a run may be at its end. */
  onAnswers?(): void
  onProblem?(problem: unknown): void
}

/**
 * The main machine's end of the queue that machines share. The database is the truth: pictures are claimed from it in the
 * stations' name, as many as they can work on and a few ahead, laid into Redis, and their answers are written into it.
 * What Redis loses is claimed anew; what it delivers twice changes nothing, since each claim has a token of its own.
 */
export class Dispatcher {
  private readonly queue: Queue<StationJob, StationAnswer>
  /** Looks for pictures whose station was lost; it never takes one. */
  private readonly watcher: Worker<StationJob, StationAnswer>
  /** Pictures that lie in Redis or are at a station, by their names there. */
  private readonly away = new Map<string, Claim>()
  private readonly leaseMs: number
  private readonly board: SignBoard
  private timer: NodeJS.Timeout | undefined
  private ticking: Promise<void> | undefined
  private closed = false
  private signedAt = Number.NEGATIVE_INFINITY
  private comparedAt = Number.NEGATIVE_INFINITY
  /** Locks may have run out without anybody's fault until then, by the steady clock. */
  private lenientUntil = 0
  private problem: string | null = null
  private readonly silence: SilenceWatch
  private lookedAt = 0

  constructor(
    private readonly claims: DatabaseClaims,
    private readonly options: DispatcherOptions,
  ) {
    const { redis } = options
    this.leaseMs = options.leaseMs ?? defaultLeaseMs
    this.silence = new SilenceWatch(redis)
    this.board = new SignBoard(options)
    const shared = { connection: redis, prefix: keyPrefix }
    this.queue = new Queue(queueName, { ...shared, defaultJobOptions: { removeOnComplete: false, removeOnFail: false } })
    this.watcher = new Worker(queueName, null, {
      ...shared,
      autorun: false,
      lockDuration: this.leaseMs,
      stalledInterval: this.leaseMs / 2,
      maxStalledCount: 0,
    })
    this.queue.on('error', (error) => options.onProblem?.(error))
    this.watcher.on('error', (error) => options.onProblem?.(error))
    this.watcher.on('stalled', (id) => void this.guarded(() => this.takeBackLost(id)))
    redis.on('ready', () => this.beLenient())
    // What was dispatched before this process began is still out there.
    for (const claim of claims.adopt()) this.away.set(this.idOf(claim), claim)
    this.beLenient()
  }

  start(): void {
    this.timer = setInterval(() => void this.tick(), tickMs)
    void this.watcher.startStalledCheckTimer().catch((error) => this.options.onProblem?.(error))
    void this.tick()
  }

  /** Takes answers and gives out pictures, once. */
  tick(): Promise<void> {
    this.ticking ??= this.guarded(() => this.round()).finally(() => {
      this.ticking = undefined
    })
    return this.ticking
  }

  /** Takes back what no station has begun; what is under way is answered to whoever comes after. */
  async stop(): Promise<void> {
    clearInterval(this.timer)
    await this.ticking
    this.closed = true
    await this.guarded(async () => {
      await this.withdraw([...this.away.keys()])
      await this.takeAnswers()
    })
    await this.guarded(() => this.board.takeDown())
    await Promise.allSettled([within(patienceMs, this.queue.close()), within(patienceMs, this.watcher.close(true))])
    await this.claims.leave()
  }

  private async round(): Promise<void> {
    const now = performance.now()
    if (now - this.signedAt > signMs) {
      this.problem = await this.board.give()
      await this.claims.tend(this.problem)
      this.signedAt = now
    }
    if (this.problem !== null) return
    if (now - this.comparedAt > compareMs) {
      await this.compare()
      this.comparedAt = now
    }
    await this.takeAnswers()
    if (now - this.lookedAt > (this.options.lookMs ?? defaultLookMs)) {
      this.lookedAt = now
      await this.takeBackUnserved()
    }
    await this.fill()
  }

  /** Pictures that Redis has lost go back in line; pictures of an earlier life that nobody waits for go away. */
  private async compare(): Promise<void> {
    const ids = [...this.away.keys()]
    const there = await this.existing(ids)
    for (const id of ids) if (!there.has(id)) await this.putBack(id)
    const waiting = await within(patienceMs, this.queue.getRanges(['wait'], 0, -1))
    for (const id of waiting) if (!this.away.has(id)) await this.remove(id)
  }

  private async existing(ids: readonly string[]): Promise<Set<string>> {
    const pipeline = this.options.redis.pipeline()
    for (const id of ids) pipeline.exists(`${keyPrefix}:${queueName}:${id}`)
    const found = (await within(patienceMs, pipeline.exec())) ?? []
    return new Set(ids.filter((_, i) => found[i]?.[1] === 1))
  }

  private async takeAnswers(): Promise<void> {
    for (;;) {
      const jobs = (await within(patienceMs, this.queue.getJobs(['completed', 'failed'], 0, answersAtATime - 1, true))) as Job<StationJob>[]
      const answers = jobs.flatMap((job) => {
        const claim = this.away.get(job.id ?? '')
        return claim ? [{ claim, answer: readAnswer(job.returnvalue) }] : []
      })
      const given: Promise<void>[] = []
      this.claims.together(() => {
        for (const { claim, answer } of answers) given.push(this.take(claim, answer))
      })
      await Promise.all(given)
      if (given.length > 0) this.options.onAnswers?.()
      for (const { id } of jobs) this.away.delete(id ?? '')
      await Promise.all(jobs.map(({ id }) => this.remove(id ?? '')))
      if (jobs.length < answersAtATime) return
    }
  }

  private take(claim: Claim, answer: StationAnswer | undefined): Promise<void> {
    switch (answer?.kind) {
      case 'finished':
        return this.claims.finish(claim, own(claim, answer.outcome))
      case 'workerLost':
        return this.claims.giveBack(claim)
      case 'stationLost':
        return this.giveBackLost(claim)
      case 'heldUp':
        return this.claims.holdUp(claim, answer.reason)
      case 'putBack':
        return this.claims.putBack(claim)
      default:
        // No answer that can be read: as if whoever gave it had been lost.
        return this.giveBackLost(claim)
    }
  }

  private async takeBackLost(id: string): Promise<void> {
    const claim = this.away.get(id)
    if (!claim || !(await this.remove(id))) return
    this.away.delete(id)
    await this.giveBackLost(claim)
  }

  private giveBackLost(claim: Claim): Promise<void> {
    return performance.now() < this.lenientUntil ? this.claims.putBack(claim) : this.claims.giveBackLost(claim, lossLimit)
  }

  /** Redis was away, or this process was: stations could not prolong their locks, or nobody counted. */
  private beLenient(): void {
    this.lenientUntil = performance.now() + 2 * this.leaseMs
    this.comparedAt = Number.NEGATIVE_INFINITY
  }

  /** Nothing is begun of runs that were paused or stopped, or that others were moved before; and nothing waits where no station is. */
  private async takeBackUnserved(): Promise<void> {
    if (this.away.size === 0) return
    if (this.board.workers === 0) return this.withdraw([...this.away.keys()])
    const runs = this.claims.notServed([...new Set([...this.away.values()].map(({ task }) => task.runId))])
    if (runs.size > 0) await this.withdraw([...this.away].filter(([, { task }]) => runs.has(task.runId)).map(([id]) => id))
  }

  /** Takes pictures back that no station has begun. Taken out of the list of those that wait, they are nobody else's: neither in hand nor answered. */
  private async withdraw(ids: readonly string[]): Promise<void> {
    for (const id of ids) {
      const waited = await within(patienceMs, this.options.redis.lrem(`${keyPrefix}:${queueName}:wait`, 1, id))
      if (waited === 0) continue
      await this.remove(id)
      await this.putBack(id)
    }
  }

  private async putBack(id: string): Promise<void> {
    const claim = this.away.get(id)
    this.away.delete(id)
    if (claim) await this.claims.putBack(claim)
  }

  /** @returns whether it is gone now: what a station has in hand stays */
  private async remove(id: string): Promise<boolean> {
    return (await within(patienceMs, this.queue.remove(id))) === 1
  }

  private async fill(): Promise<void> {
    const { workers } = this.board
    if (workers === 0 || this.closed) return
    const wanted = workers + Math.min(maxAhead, Math.max(minAhead, workers * aheadOfWorker))
    if (this.away.size >= wanted) return
    const claimed = this.claims.claimSome(wanted - this.away.size)
    for (const claim of claimed) this.away.set(this.idOf(claim), claim)
    if (claimed.length === 0) return
    const { build } = this.options
    await within(
      patienceMs,
      this.queue.addBulk(
        claimed.map(({ task, crashes, runNumber }) => ({
          name: 'picture',
          data: { task, crashes, runNumber, build: build.id },
          opts: { jobId: jobIdOf(this.options.application, task) },
        })),
      ),
    )
  }

  private idOf({ task }: Claim): string {
    return jobIdOf(this.options.application, task)
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work()
      this.silence.answered()
    } catch (error) {
      this.silence.failed(error)
      this.options.onProblem?.(error)
      const isAway = error instanceof RedisAwayError || this.options.redis.status !== 'ready'
      await this.claims.tend(isAway ? redisAway : null).catch(() => undefined)
    }
  }
}

/** An outcome in which only what was asked for is said of a picture's own files: a station's word on other files counts for nothing. */
function own({ task }: Claim, outcome: PictureOutcome): PictureOutcome {
  const paths = new Map(task.targets.map(({ resultId, path }) => [resultId, path]))
  const delivered = outcome.delivered.flatMap((result) => {
    const targetPath = paths.get(result.resultId)
    return targetPath === undefined ? [] : [{ ...result, targetPath }]
  })
  return { ...outcome, delivered }
}
