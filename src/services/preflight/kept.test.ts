import { mkdirSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it, vi } from 'vitest'
import type { Loop } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { listItems } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop, testMacroId } from '../../../tests/application'
import { preflightsFolder } from '../context'
import { reviseMacro } from '../macros'
import { startRun } from '../runs/start'
import { preflightAndKeep } from './kept'
import * as facts from './known-facts'

const numbered = (app: TestApplication): Loop => {
  const loop = testLoop(app)
  return { ...loop, deliveries: loop.deliveries.map((delivery) => ({ ...delivery, namePattern: '{n:001}-{name}' })) }
}
async function checked() {
  const app = testApplication()
  fillIntake(app, 4, 'demo/odd-files/SHELF.JPG')
  mkdirSync(app.delivery)
  const loop = numbered(app)
  const { token, check } = await preflightAndKeep(app.context, loop)
  return { app, loop, token, check }
}
const first = (app: TestApplication): string => join(app.intake, readdirSync(app.intake).sort()[0] ?? '')

describe('a check that was kept', () => {
  it('is what the run is made of: nothing is read again', async () => {
    const { app, loop, token, check } = await checked()
    const reading = vi.spyOn(facts, 'knownFacts')
    const run = await startRun(app.context, loop, { check: token })
    expect(reading).not.toHaveBeenCalled()
    expect(listItems(app.context.db, run.id).map(({ results }) => results.map(({ targetPath }) => targetPath))).toEqual(
      check.pictures.map(({ targets }) => targets.map(({ path }) => path)),
    )
    // What is read is seen here: a check without the token reads.
    await startRun(app.context, loop)
    expect(reading).toHaveBeenCalled()
    reading.mockRestore()
  })
  it('holds whatever the loop is called and when it starts', async () => {
    const { app, loop, token } = await checked()
    const reading = vi.spyOn(facts, 'knownFacts')
    await startRun(app.context, { ...loop, name: 'Renamed', start: { when: 'arrivals' }, version: 9 }, { check: token })
    expect(reading).not.toHaveBeenCalled()
    reading.mockRestore()
  })
  it.each<[string, (app: TestApplication, name: string) => void, RegExp]>([
    ['a picture that came', (app) => fillIntake(app, 5, 'demo/odd-files/SHELF.JPG'), /1 picture came/],
    ['one that went', (app) => rmSync(first(app)), /1 picture went/],
    ['one that changed', (app) => utimesSync(first(app), 5, 5), /1 picture changed/],
    [
      'a macro that was revised',
      (app) => void reviseMacro(app.context, testMacroId, [newStep('exposure', 'other', { exposureEv: 1 })]),
      /a macro was changed/,
    ],
    ['a file that has taken a name', (_, name) => writeFileSync(name, 'x'), /1 picture would be delivered otherwise/],
  ])('is told to be another since: %s', async (_, change, difference) => {
    const { app, loop, token, check } = await checked()
    change(app, check.pictures[0]?.targets[0]?.path ?? '')
    const start = startRun(app.context, loop, { check: token })
    await expect(start).rejects.toMatchObject({ code: 'preflightMoved' })
    await expect(start).rejects.toThrow(difference)
  })
  it('is made anew, and goes on, where it comes out the same', async () => {
    const { app, loop, token } = await checked()
    writeFileSync(join(app.delivery, 'another.txt'), 'x')
    expect((await startRun(app.context, loop, { check: token })).totals.waiting).toBe(4)
  })
  it('that is not there any more is no hindrance', async () => {
    const { app, loop } = await checked()
    const run = await startRun(app.context, loop, { check: '00000000-0000-4000-8000-000000000000' })
    expect(run.totals.waiting).toBe(4)
  })
  it('makes room for newer ones', async () => {
    const { app, loop } = await checked()
    for (let i = 0; i < 26; i++) await preflightAndKeep(app.context, loop)
    expect(readdirSync(preflightsFolder(app.context.dataFolder)).length).toBeLessThanOrEqual(24)
  })
})
