import { readFileSync } from 'node:fs'
import { Redis } from 'ioredis'
import { reasonOf } from '@/base/errors'

/** Everything of ours in Redis begins like this. */
export const keyPrefix = 'copper-loop'
export const queueName = 'pictures'
/** The main machine's sign; it goes by itself when the machine does. */
export const mainKey = `${keyPrefix}:main`
/** Signs of stations, by their ids. */
export const stationsKey = `${keyPrefix}:stations`

/** A picture's name in Redis: its token makes each claim another. */
export const jobIdOf = (application: string, { itemId, token }: { readonly itemId: number; readonly token: number }): string =>
  `${application}-${itemId}-${token}`

/** Longest pause before Redis is tried again. */
const maxPauseMs = 2_000

export interface RedisSettings {
  /** `redis://` or, encrypted, `rediss://`, with name and password before the host. */
  readonly url: string
  /** A file with the certificates that a server's is checked against, where its issuer is not known to the system. */
  readonly certificates?: string
}

/** As the environment says; `undefined` where it names no Redis. */
export function redisSettings(environment: NodeJS.ProcessEnv): RedisSettings | undefined {
  const url = environment.COPPER_LOOP_REDIS?.trim()
  return url ? { url, certificates: environment.COPPER_LOOP_REDIS_CA } : undefined
}

/** A connection that is made anew for as long as it takes; `onProblem` is told when it breaks. */
export function connect({ url, certificates }: RedisSettings, onProblem?: (reason: string) => void): Redis {
  const redis = new Redis(url, {
    maxRetriesPerRequest: null,
    retryStrategy: (times) => Math.min(100 * 2 ** Math.min(times, 6), maxPauseMs),
    ...(certificates && { tls: { ca: readFileSync(certificates) } }),
  })
  redis.on('error', (error) => onProblem?.(reasonOf(error)))
  return redis
}

/** Redis did not answer in time; it is asked again. */
export class RedisAwayError extends Error {
  override readonly name = 'RedisAwayError'
}

/** What Redis answers, unless it takes too long: a connection that is being made anew keeps questions for later. */
export async function within<T>(ms: number, answer: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new RedisAwayError(`Redis did not answer within ${ms / 1000} s`)), ms)
  })
  // A late failure is nobody's.
  answer.catch(() => undefined)
  return Promise.race([answer, late]).finally(() => clearTimeout(timer))
}

/** After so many questions in a row without an answer the connection is taken for dead. */
const silencesToEnd = 3

/** Begins a connection anew that looks open and is dead: a network that drops it without a word is noticed after a quarter of an hour otherwise. */
export class SilenceWatch {
  private silences = 0

  constructor(private readonly redis: Redis) {}

  answered(): void {
    this.silences = 0
  }

  failed(error: unknown): void {
    if (!(error instanceof RedisAwayError) || ++this.silences < silencesToEnd) return
    this.silences = 0
    this.redis.disconnect(true)
  }
}

/** The time of Redis, which all machines share: milliseconds since 1970. */
export async function timeOf(redis: Redis): Promise<number> {
  const [seconds, microseconds] = await redis.time()
  return Number(seconds) * 1000 + Math.floor(Number(microseconds) / 1000)
}
