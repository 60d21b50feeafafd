import { join } from 'node:path'
import { expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { startRun } from '@/services/runs/start'
import { findRun, listItemsBriefly } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../../tests/application'
import { describeQueue, type QueueUnderTest } from '../../tests/queue-contract'
import { EmbeddedQueue } from './embedded-queue'

function database(): Omit<QueueUnderTest, 'open'> & { open(): EmbeddedQueue } {
  const { context, ...app } = testApplication()
  const { db } = context
  let [now, runs, runners] = [Date.now(), 0, 0]
  return {
    open: () => new EmbeddedQueue(db, `runner-${++runners}`, { now: () => now, steadyNow: () => now }),
    addRun: async (pictures) => {
      fillIntake({ context, ...app }, pictures)
      const delivery = defaultDelivery('d', join(app.root, `out-${++runs}`))
      return (await startRun(context, testLoop({ context, ...app }, { deliveries: [delivery] }))).id
    },
    items: async (runId) => listItemsBriefly(db, runId),
    stateOf: async (runId) => findRun(db, runId)?.state ?? 'gone',
    moveOn: async (milliseconds) => {
      now += milliseconds
    },
  }
}

describeQueue('the queue in the database', database)

it('the queue in the database has work while something waits, is in hand, or is held up by a fault', async () => {
  const under = database()
  const queue = under.open()
  expect(queue.hasWork()).toBe(false)
  await under.addRun(1)
  expect(queue.hasWork()).toBe(true)
  const claim = await queue.claim()
  expect(claim && queue.hasWork()).toBe(true)
  if (claim) await queue.holdUp(claim, { code: 'diskFull', details: { path: '/somewhere' } })
  expect(queue.hasWork()).toBe(true)
  await queue.tend(null)
  await under.moveOn(90_000)
  await queue.tend(null)
  const again = await queue.claim()
  if (again) await queue.finish(again, { state: 'done', milliseconds: 1, delivered: [] })
  await queue.tend(null)
  expect(again && queue.hasWork()).toBe(false)
})

it('the queue in the database puts a picture back and pauses its run together, or keeps both for the next beat', async () => {
  const { context, ...app } = testApplication()
  const { db } = context
  fillIntake({ context, ...app }, 1)
  const { id } = await startRun(context, testLoop({ context, ...app }))
  const problems: unknown[] = []
  const queue = new EmbeddedQueue(db, 'runner', { onProblem: (problem) => problems.push(problem) })
  const claim = await queue.claim()
  if (!claim) throw new Error('nothing to claim')
  db.$client.exec(`CREATE TEMP TRIGGER held BEFORE UPDATE OF state ON runs BEGIN SELECT RAISE(ABORT, 'database is locked'); END`)
  await queue.holdUp(claim, { code: 'diskFull', details: { path: '/somewhere' } })
  expect(problems).toHaveLength(1)
  expect(listItemsBriefly(db, id)).toMatchObject([{ state: 'working' }])
  db.$client.exec('DROP TRIGGER held')
  await queue.tend(null)
  expect(listItemsBriefly(db, id)).toMatchObject([{ state: 'waiting' }])
  expect(findRun(db, id)?.state).toBe('paused')
})
