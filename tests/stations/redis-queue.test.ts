import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { Redis } from 'ioredis'
import { afterAll, afterEach, beforeAll } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { DatabaseClaims } from '@/runner/database-claims'
import { EmbeddedQueue } from '@/runner/embedded-queue'
import type { WorkQueue } from '@/runner/queue'
import { Dispatcher } from '@/runner/stations/dispatcher'
import { stationsKey } from '@/runner/stations/redis'
import { RedisQueue } from '@/runner/stations/redis-queue'
import { startRun } from '@/services/runs/start'
import { findRun, listItemsBriefly } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../application'
import { describeQueue, type QueueUnderTest } from '../queue-contract'
import { RedisServer } from '../redis-server'

/** The contract's time passes a hundred times faster here: locks in Redis go by its own clock. */
const scale = 100
const leaseMs = 60_000 / scale
const build = { version: '1', id: 'build' }

let server: RedisServer
const closing: (() => unknown)[] = []
beforeAll(async () => {
  server = await RedisServer.start()
})
afterAll(() => server.close())
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

describeQueue('the queue in Redis', async (): Promise<QueueUnderTest> => {
  const { context, ...app } = testApplication()
  const { db } = context
  let [ahead, runs] = [0, 0]
  const open = (): Redis => {
    const redis = new Redis(server.url, { maxRetriesPerRequest: null })
    closing.push(() => redis.disconnect())
    return redis
  }
  const redis = open()
  await redis.flushall()
  const clock = () => Date.now() + ahead
  const keeper = new EmbeddedQueue(db, 'keeper', { now: clock, steadyNow: () => performance.now() + ahead })
  const claims = new DatabaseClaims(db, 'stations', { now: clock })
  const dispatcher = new Dispatcher(claims, {
    redis,
    application: randomUUID(),
    build,
    sign: () => ({ roots: [{ path: app.root, real: app.root, sign: 's' }], addresses: [], secret: 's' }),
    leaseMs,
    lookMs: 0,
  })
  const sign = { name: 's', cores: 2, workers: 2, busy: 0, build: build.id, version: '1', picturesPerMinute: 0, done: 0 }
  const atWork = { ...sign, id: 'all', startedAt: 0, trouble: null, at: Date.now() + 1e6 }
  await redis.hset(stationsKey, 'all', JSON.stringify(atWork))
  dispatcher.start()
  closing.push(() => dispatcher.stop())
  // Until all that was said has come to where it belongs: one round may have begun before.
  const settle = async (): Promise<void> => {
    for (let i = 0; i < 2; i++) await dispatcher.tick()
  }
  const station = (): WorkQueue => {
    const queue = new RedisQueue({ redis: open(), build: build.id, leaseMs })
    closing.push(() => queue.leave())
    return {
      claim: () => settle().then(() => queue.claim()),
      tend: async () => {
        await queue.tend()
        await settle()
        // The dispatcher gives signs of life by real time.
        await claims.tend(null)
        await keeper.tend(null)
      },
      holds: (claim) => queue.holds(claim),
      finish: (claim, outcome) => queue.finish(claim, outcome),
      giveBack: (claim) => queue.giveBack(claim),
      putBack: (claim) => queue.putBack(claim),
      holdUp: (claim, reason) => queue.holdUp(claim, reason),
      leave: () => queue.leave(),
    }
  }
  return {
    // For two workers.
    ahead: 10,
    open: station,
    addRun: async (pictures) => {
      fillIntake({ context, ...app }, pictures)
      const delivery = defaultDelivery('d', join(app.root, `out-${++runs}`))
      return (await startRun(context, testLoop({ context, ...app }, { deliveries: [delivery] }))).id
    },
    items: (runId) => settle().then(() => listItemsBriefly(db, runId)),
    stateOf: (runId) => settle().then(() => findRun(db, runId)?.state ?? 'gone'),
    moveOn: async (milliseconds) => {
      ahead += milliseconds
      await pause(milliseconds / scale)
    },
  }
})
