import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import { Redis } from 'ioredis'
import { defaultDelivery } from '@/jobs/delivery'
import { DatabaseClaims, type DatabaseClaimsOptions } from '@/runner/database-claims'
import { Dispatcher, type DispatcherOptions } from '@/runner/stations/dispatcher'
import type { StationSign } from '@/runner/stations/messages'
import { stationsKey } from '@/runner/stations/redis'
import { RedisQueue } from '@/runner/stations/redis-queue'
import { startRun } from '@/services/runs/start'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../application'
import type { RedisServer } from '../redis-server'

export const build = { version: '1', id: 'build' }

/** An application whose pictures are given to stations, without the processes: each end of the queue is moved by the test. */
export class Dispatched {
  readonly app: TestApplication = testApplication()
  readonly application = randomUUID()
  readonly redis: Redis
  readonly claims: DatabaseClaims
  dispatcher: Dispatcher
  private readonly options: DispatcherOptions
  private readonly closing: (() => unknown)[] = []
  private runs = 0

  constructor(
    private readonly server: RedisServer,
    options: Partial<DispatcherOptions> = {},
    private readonly claimsOptions: DatabaseClaimsOptions = {},
  ) {
    this.redis = this.connect()
    this.claims = new DatabaseClaims(this.app.context.db, 'stations', claimsOptions)
    this.options = {
      redis: this.redis,
      application: this.application,
      build,
      sign: () => ({ roots: [{ path: this.app.root, real: this.app.root, sign: 's' }], addresses: [], secret: 's' }),
      lookMs: 0,
      ...options,
    }
    this.dispatcher = new Dispatcher(this.claims, this.options)
  }

  /** On a Redis with nothing in it, and with stations of so many workers. */
  static async open(
    server: RedisServer,
    {
      workers = 2,
      options = {},
      claims = {},
    }: { workers?: number; options?: Partial<DispatcherOptions>; claims?: DatabaseClaimsOptions } = {},
  ): Promise<Dispatched> {
    const dispatched = new Dispatched(server, options, claims)
    await dispatched.redis.flushall()
    await dispatched.stationSays({ workers })
    dispatched.dispatcher.start()
    return dispatched
  }

  connect(): Redis {
    const redis = new Redis(this.server.url, { maxRetriesPerRequest: null })
    this.closing.push(() => redis.disconnect())
    return redis
  }

  /** A station's end of the queue. */
  station(options: { readonly build?: string; readonly leaseMs?: number } = {}): RedisQueue {
    const queue = new RedisQueue({ redis: this.connect(), build: build.id, ...options })
    this.closing.push(() => queue.leave())
    return queue
  }

  async stationSays(part: Partial<StationSign> = {}): Promise<void> {
    const sign: StationSign = {
      id: 'all',
      name: 'all',
      cores: 2,
      workers: 2,
      busy: 0,
      build: build.id,
      version: '1',
      picturesPerMinute: 0,
      done: 0,
      startedAt: 0,
      trouble: null,
      // It is heard for as long as the test lasts.
      at: Date.now() + 1e6,
      ...part,
    }
    await this.redis.hset(stationsKey, sign.id, JSON.stringify(sign))
  }

  /** The dispatcher's process ends without a word. */
  async vanish(): Promise<void> {
    this.redis.disconnect()
  }

  /** Another dispatcher of the same application, as a process that was started anew has it. */
  again(): Dispatcher {
    const claims = new DatabaseClaims(this.app.context.db, 'stations', this.claimsOptions)
    this.dispatcher = new Dispatcher(claims, { ...this.options, redis: this.connect() })
    this.dispatcher.start()
    return this.dispatcher
  }

  /** Until all that was said has come to where it belongs: one round may have begun before. */
  async settle(): Promise<void> {
    for (let i = 0; i < 2; i++) await this.dispatcher.tick()
  }

  /** @returns the run's id */
  async addRun(pictures: number): Promise<string> {
    fillIntake(this.app, pictures)
    const delivery = defaultDelivery('d', join(this.app.root, `out-${++this.runs}`))
    return (await startRun(this.app.context, testLoop(this.app, { deliveries: [delivery] }))).id
  }

  async close(): Promise<void> {
    await this.dispatcher.stop()
    for (const close of this.closing.reverse()) await close()
  }
}
