import { copyFileSync, renameSync, rmSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { everyDay, type Loop, type LoopStart } from '@/jobs/loop'
import { claimItem, finishItem } from '@/store/queue'
import { advanceRun } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../../tests/application'
import { saveLoop, standingStarts } from './loops'
import { listRuns, runResults } from './runs/summary'
import { tryLoop } from './runs/tries'
import { StandingStarts } from './starts'

const picture = 'demo/pictures/vessels/TLK27_0418.jpg'
const onArrival: LoopStart = { when: 'arrivals' }
const daily: LoopStart = { when: 'atTimes', at: '18:30', days: everyDay }
const at = (text: string): number => new Date(text).getTime()

/** Does all that waits, as a runner would; the pictures themselves do not matter here. */
function work({ context: { db } }: TestApplication, state: 'done' | 'failed' = 'done'): void {
  for (let claim = claimItem(db, 'me', 1, 1000); claim; claim = claimItem(db, 'me', 1, 1000))
    finishItem(db, claim.item, { state, milliseconds: 1, delivered: [] }, 2)
  for (const run of listRuns({ db } as TestApplication['context']).runs) advanceRun(db, run.id, 'finished', 3)
}
/** Looks as often as it takes to find an intake quiet. */
async function checkTwice(app: TestApplication, starts: StandingStarts, from: number): Promise<void> {
  for (const later of [0, 10_000]) await starts.check(app.context, from + later)
}
const takenBy = (app: TestApplication, index = 0): string[] =>
  runResults(app.context, listRuns(app.context).runs[index]?.id ?? '').map(({ relativePath }) => relativePath)

describe('a loop that starts when pictures come', () => {
  it('starts once nothing more comes, over what it has not delivered yet, and not again', async () => {
    const app = testApplication()
    testLoop(app, { start: onArrival })
    const starts = new StandingStarts()
    await checkTwice(app, starts, 0)
    expect(listRuns(app.context).runs).toEqual([])
    fillIntake(app, 2)
    await starts.check(app.context, 100_000)
    expect(listRuns(app.context).runs).toEqual([])
    copyFileSync(picture, join(app.intake, 'third.jpg'))
    await starts.check(app.context, 110_000)
    expect(listRuns(app.context).runs).toEqual([])
    await starts.check(app.context, 120_000)
    expect(takenBy(app)).toEqual(['picture-1.jpg', 'picture-2.jpg', 'third.jpg'])
    work(app)
    await checkTwice(app, starts, 200_000)
    expect(listRuns(app.context).runs).toHaveLength(1)

    copyFileSync(picture, join(app.intake, 'fourth.jpg'))
    utimesSync(join(app.intake, 'picture-1.jpg'), 5, 5)
    await checkTwice(app, starts, 300_000)
    expect(takenBy(app)).toEqual(['fourth.jpg', 'picture-1.jpg'])
  })
  it('waits for its run that is not over, and does not take pictures twice', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    testLoop(app, { start: onArrival })
    const starts = new StandingStarts()
    await checkTwice(app, starts, 0)
    copyFileSync(picture, join(app.intake, 'later.jpg'))
    await checkTwice(app, starts, 100_000)
    expect(listRuns(app.context).runs).toHaveLength(1)
    work(app)
    await checkTwice(app, starts, 200_000)
    expect(listRuns(app.context).runs).toHaveLength(2)
    expect(takenBy(app)).toEqual(['later.jpg'])
  })
  it('does not count a try as delivered, nor ask where what it delivered is now', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const loop = testLoop(app)
    await tryLoop(app.context, loop)
    work(app)
    saveLoop(app.context, { ...loop, start: onArrival })
    const starts = new StandingStarts()
    await checkTwice(app, starts, 0)
    expect(listRuns(app.context).runs).toHaveLength(2)
    work(app)
    rmSync(app.delivery, { recursive: true, force: true })
    copyFileSync(picture, join(app.intake, 'more.jpg'))
    await checkTwice(app, starts, 100_000)
    expect(takenBy(app)).toEqual(['more.jpg'])
  })
  it('says why it could not, and tries again', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const loop = testLoop(app, { start: onArrival, deliveries: [] })
    const starts = new StandingStarts()
    await checkTwice(app, starts, 0)
    expect(standingStarts(app.context)).toEqual([{ loopId: loop.id, nextAt: null, problem: expect.stringMatching(/Add a delivery/) }])
    renameSync(app.intake, `${app.intake}-away`)
    await starts.check(app.context, 100_000)
    expect(standingStarts(app.context)[0]?.problem).toMatch(/does not exist/)
    renameSync(`${app.intake}-away`, app.intake)
    saveLoop(app.context, { ...loop, deliveries: testLoop(app).deliveries })
    await checkTwice(app, starts, 200_000)
    expect(listRuns(app.context).runs).toHaveLength(1)
    expect(standingStarts(app.context)[0]?.problem).toBeNull()
  })
})

describe('a loop that starts at a time of day', () => {
  const checks = async (app: TestApplication, starts: StandingStarts, times: readonly string[]): Promise<number[]> => {
    const runs: number[] = []
    for (const time of times) {
      await starts.check(app.context, at(time))
      runs.push(listRuns(app.context).runs.length)
    }
    return runs
  }
  const fresh = (app: TestApplication, name: string): void => copyFileSync(picture, join(app.intake, name))

  it('starts once each time, makes up for one time that was missed, and for none before it was switched on', async () => {
    const app = testApplication()
    fresh(app, 'a.jpg')
    testLoop(app, { start: daily })
    const starts = new StandingStarts()
    expect(await checks(app, starts, ['2026-03-14T20:00', '2026-03-15T18:29', '2026-03-15T18:30', '2026-03-15T18:31'])).toEqual([
      0, 0, 1, 1,
    ])
    work(app)
    fresh(app, 'b.jpg')
    // The machine slept for three days.
    expect(await checks(app, new StandingStarts(), ['2026-03-18T20:00', '2026-03-18T20:01'])).toEqual([2, 2])
    expect(takenBy(app)).toEqual(['b.jpg'])
  })
  it('makes no run where nothing is new, or nothing is there', async () => {
    const app = testApplication()
    const loop = testLoop(app, { start: daily })
    const starts = new StandingStarts()
    expect(await checks(app, starts, ['2026-03-14T12:00', '2026-03-14T19:00'])).toEqual([0, 0])
    expect(standingStarts(app.context, at('2026-03-14T19:00'))).toEqual([
      { loopId: loop.id, nextAt: at('2026-03-15T18:30'), problem: null },
    ])
    fresh(app, 'a.jpg')
    expect(await checks(app, starts, ['2026-03-15T19:00'])).toEqual([1])
    work(app)
    expect(await checks(app, starts, ['2026-03-16T19:00'])).toEqual([1])
  })
  it('begins anew when its times change', async () => {
    const app = testApplication()
    fresh(app, 'a.jpg')
    const loop: Loop = testLoop(app, { start: daily })
    const starts = new StandingStarts()
    await checks(app, starts, ['2026-03-14T12:00'])
    saveLoop(app.context, { ...loop, start: { ...daily, at: '11:00' } })
    expect(await checks(app, starts, ['2026-03-14T12:01', '2026-03-14T19:00', '2026-03-15T11:00'])).toEqual([0, 0, 1])
  })
})
