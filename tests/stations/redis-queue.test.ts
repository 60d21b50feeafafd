import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, afterEach, beforeAll } from 'vitest'
import { EmbeddedQueue } from '@/runner/embedded-queue'
import { findRun, listItemsBriefly } from '@/store/runs'
import { describeQueue, type QueueUnderTest } from '../queue-contract'
import { RedisServer } from '../redis-server'
import { Dispatched } from './dispatched'

/** The contract's time passes a hundred times faster here: locks in Redis go by its own clock. */
const scale = 100
const leaseMs = 60_000 / scale

let server: RedisServer
let opened: Dispatched | undefined
beforeAll(async () => {
  server = await RedisServer.start()
})
afterAll(() => server.close())
afterEach(() => opened?.close())

describeQueue('the queue in Redis', async (): Promise<QueueUnderTest> => {
  let ahead = 0
  const now = (): number => Date.now() + ahead
  const dispatched = await Dispatched.open(server, { options: { leaseMs }, claims: { now } })
  opened = dispatched
  const { db } = dispatched.app.context
  const keeper = new EmbeddedQueue(db, 'keeper', { now, steadyNow: () => performance.now() + ahead })
  return {
    // For two workers.
    ahead: 10,
    open() {
      const queue = dispatched.station({ leaseMs })
      return {
        claim: () => dispatched.settle().then(() => queue.claim()),
        tend: async () => {
          await queue.tend()
          await dispatched.settle()
          // The dispatcher gives signs of life by real time.
          await dispatched.claims.tend(null)
          await keeper.tend(null)
        },
        holds: (claim) => queue.holds(claim),
        finish: (claim, outcome) => queue.finish(claim, outcome),
        giveBack: (claim) => queue.giveBack(claim),
        putBack: (claim) => queue.putBack(claim),
        holdUp: (claim, reason) => queue.holdUp(claim, reason),
        leave: () => queue.leave(),
      }
    },
    addRun: (pictures) => dispatched.addRun(pictures),
    items: (runId) => dispatched.settle().then(() => listItemsBriefly(db, runId)),
    stateOf: (runId) => dispatched.settle().then(() => findRun(db, runId)?.state ?? 'gone'),
    moveOn: async (milliseconds) => {
      ahead += milliseconds
      await pause(milliseconds / scale)
    },
  }
})
