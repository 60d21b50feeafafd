import { describe, expect, it } from 'vitest'
import { reasonOf } from '@/base/errors'
import { newStep } from '@/macros/step'
import { fillIntake, testApplication, testLoop, testMacroId } from '../../tests/application'
import { reviseMacro } from './macros'
import { preflight } from './preflight/preflight'
import { startRun } from './runs/start'
import { lastRuns, listRuns } from './runs/summary'
import { tryLoop } from './runs/tries'

/* What people are told of a loop and its runs, and what they are not. */

describe('a loop that starts by itself', () => {
  it('has no fault while nothing lies in its intake yet', async () => {
    const app = testApplication()
    const loop = testLoop(app)
    const byHand = (await preflight(app.context, loop)).problems.find(({ area }) => area === 'intake')
    expect(byHand).toMatchObject({ blocks: true, nothingToDo: true })
    expect(byHand?.toFillIn).toBeUndefined()
    const armed = (await preflight(app.context, { ...loop, start: { when: 'arrivals' } })).problems.find(({ area }) => area === 'intake')
    expect(armed).toMatchObject({ toFillIn: true, nothingToDo: true, sentence: expect.stringMatching(/starts by itself once some come/) })
  })
})

describe('a crop that asks for more pixels than there are', () => {
  it('is told of each picture, and of all', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const cut = (widthPx: number) =>
      reviseMacro(app.context, testMacroId, [newStep('crop', 'c', { shape: 'pixels', widthPx, heightPx: 8 })])
    cut(20_000)
    const check = await preflight(app.context, testLoop(app))
    expect(check.pictures.map(({ remark }) => remark)).toEqual(Array(2).fill('Smaller than what is cut out of it: it keeps its own size'))
    expect(check.problems.map(({ sentence }) => sentence)).toContain(
      '2 pictures have fewer pixels than a crop asks for and will come out smaller.',
    )
    cut(8)
    expect((await preflight(app.context, testLoop(app))).pictures.map(({ remark }) => remark)).toEqual([null, null])
  })
})

describe('a try', () => {
  it('is no run of its loop', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = testLoop(app)
    const run = await startRun(app.context, loop)
    const attempt = await tryLoop(app.context, loop)
    expect(attempt).toMatchObject({ isTry: true, originals: { compared: 0, changed: 0 }, shown: [] })
    expect(listRuns(app.context).runs.map(({ isTry }) => isTry)).toEqual([true, false])
    expect(lastRuns(app.context)[loop.id]?.id).toBe(run.id)
  })
})

describe('reasons', () => {
  it.each([
    ['VipsJpeg: premature end', 'an unexpected fault; the log says more'],
    ["Cannot read properties of undefined (reading 'x')", 'an unexpected fault; the log says more'],
    ['the name is too long', 'the name is too long'],
  ])('%s is told as: %s', (message, told) => expect(reasonOf(new Error(message))).toBe(told))
})
