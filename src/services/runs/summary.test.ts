import { describe, expect, it } from 'vitest'
import { advanceRun, insertRun } from '@/store/runs'
import { type TestApplication, testApplication, testLoop } from '../../../tests/application'
import { lastRuns, listRuns } from './summary'

/** A number of finished runs of one loop. */
function endedRuns({ context: { db } }: TestApplication, loopId: string, count: number): void {
  for (let i = 0; i < count; i++) {
    const id = `${loopId}-${i}`
    insertRun(db, { id, loopId, loopName: 'Loop', macros: [], deliveries: [] }, [], 1)
    for (const event of ['claimed', 'finished'] as const) advanceRun(db, id, event, 2)
  }
}

describe('the list of runs', () => {
  it('comes a page at a time: open ones and the newest first, older ones by the number before them', () => {
    const app = testApplication()
    endedRuns(app, 'a', 120)
    insertRun(app.context.db, { id: 'open', loopId: 'a', loopName: 'Loop', macros: [], deliveries: [] }, [], 3)
    const first = listRuns(app.context)
    expect(first.runs.map(({ number }) => number)).toEqual([121, ...Array.from({ length: 50 }, (_, i) => 120 - i)])
    const numbers = first.runs.map(({ number }) => number)
    let { before } = first
    while (before !== null) {
      const page = listRuns(app.context, before)
      numbers.push(...page.runs.map(({ number }) => number))
      before = page.before
    }
    expect(numbers).toEqual(Array.from({ length: 121 }, (_, i) => 121 - i))
  })
  it('is not needed to know the last run of each loop', () => {
    const app = testApplication()
    const [one, other, never] = [testLoop(app), testLoop(app), testLoop(app)]
    endedRuns(app, one.id, 3)
    endedRuns(app, other.id, 60)
    const last = lastRuns(app.context)
    expect([last[one.id]?.number, last[other.id]?.number, last[never.id]]).toEqual([3, 63, undefined])
  })
})
