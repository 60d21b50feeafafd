import { setTimeout as pause } from 'node:timers/promises'
import { connect, stationsKey } from '@/runner/stations/redis'
import { RedisQueue } from '@/runner/stations/redis-queue'

/*
 * Stations that take pictures and only wait, all in one process: what the queue between the machines can do. Told by
 * message how many; answers with the share of the time in which their workers had a picture.
 */

export interface WaitingWork {
  readonly url: string
  readonly build: string
  readonly stations: number
  /** Of each station. */
  readonly workers: number
  /** How long a picture takes. */
  readonly pictureMs: number
  /** How long it is looked at, once all have begun. */
  readonly measuredMs: number
}

export interface WaitingAnswer {
  /** Of all workers' time. */
  readonly busy: number
  readonly pictures: number
}

/** How often a runner looks for work where it found none. */
const pollMs = 300
const warmMs = 8_000

process.once('message', async ({ url, build, stations, workers, pictureMs, measuredMs }: WaitingWork) => {
  let [since, until] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
  let [busyMs, pictures, isOver] = [0, 0, false]
  /** The part of a span in which it is looked at. */
  const within = (from: number, to: number): number => Math.max(0, Math.min(to, until) - Math.max(from, since))
  const work = async (queue: RedisQueue): Promise<void> => {
    while (!isOver) {
      const claim = await queue.claim().catch(() => undefined)
      if (!claim) {
        await pause(pollMs)
        continue
      }
      const began = performance.now()
      await pause(pictureMs)
      const ended = performance.now()
      busyMs += within(began, ended)
      if (ended >= since && ended < until) pictures++
      const delivered = claim.task.targets.map(({ resultId, path }) => ({
        resultId,
        targetPath: path,
        sizeBytes: 1,
        hash: '0'.repeat(64),
        width: 1,
        height: 1,
        constants: [],
        traits: {} as never,
      }))
      await queue.finish(claim, { state: 'done', milliseconds: pictureMs, delivered })
    }
  }
  const ends = Array.from({ length: stations }, (_, i) => {
    const redis = connect({ url })
    const queue = new RedisQueue({ redis, build })
    const sign = {
      id: `station-${i}`,
      name: `station ${i}`,
      cores: workers,
      workers,
      busy: workers,
      build,
      version: '0',
      picturesPerMinute: 0,
    }
    const signs = setInterval(() => {
      const said = { ...sign, done: 0, startedAt: 0, trouble: null, at: Date.now() }
      void redis.hset(stationsKey, sign.id, JSON.stringify(said))
      void queue.tend().catch(() => undefined)
    }, 2_000)
    for (let worker = 0; worker < workers; worker++) void work(queue)
    return signs
  })
  await pause(warmMs)
  since = performance.now()
  await pause(measuredMs)
  until = performance.now()
  await pause(pictureMs + 500)
  isOver = true
  for (const signs of ends) clearInterval(signs)
  process.send?.({ busy: busyMs / ((until - since) * stations * workers), pictures } satisfies WaitingAnswer, () => process.exit(0))
})
