import { join } from 'node:path'
import { defaultDelivery } from '@/jobs/delivery'
import { startRun } from '@/services/runs/start'
import { findRun, listItemsBriefly } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../../tests/application'
import { describeQueue } from '../../tests/queue-contract'
import { EmbeddedQueue } from './embedded-queue'

describeQueue('the queue in the database', () => {
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
})
