import { cpSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { newStep } from '@/macros/step'
import { findRun } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../../tests/application'
import { measureSetAnew } from './measure-set'
import { preflight } from './preflight/preflight'
import { proofOfLoop } from './proof'
import { startRun } from './runs/start'
import { tryLoop } from './runs/tries'

const vessels = 'demo/pictures/vessels'
const steps = [
  newStep('exposure', 'before', { exposureEv: 0.1 }),
  newStep('even-out', 'even'),
  newStep('resize', 'size', { lengthPx: 160 }),
]

function setOf(app: TestApplication, ...numbers: number[]): void {
  for (const number of numbers) cpSync(`${vessels}/TLK27_0${number}.jpg`, join(app.intake, `${number}.jpg`))
}
const referenceOf = (macros: readonly { readonly steps: readonly (typeof steps)[number][] }[]) => macros[0]?.steps[1]?.settings.reference
const frozenOf = (app: TestApplication, runId: string) => referenceOf(findRun(app.context.db, runId)?.macros ?? [])
const notes = async (app: TestApplication, loop: Parameters<typeof preflight>[1]): Promise<string[]> =>
  (await preflight(app.context, loop)).problems
    .map(({ sentence }) => sentence)
    .filter((sentence) => sentence.includes('set') || sentence.startsWith('Evened'))

describe('the middle of a set', () => {
  it('is measured before a run, foreseen by check and proof, frozen, and kept for what comes later', async () => {
    const app = testApplication(steps)
    setOf(app, 415, 418, 440)
    const loop = testLoop(app)
    const heard = new Set<string>()
    const check = await preflight(app.context, loop, {}, { onProgress: ({ stage }) => void heard.add(stage) })
    expect(heard).toContain('measuring')
    const reference = referenceOf(check.macros)
    expect(reference).toHaveLength(17)
    expect(check.problems.map(({ sentence }) => sentence)).toEqual([
      'Evened out to the middle of 3 pictures, which will be kept for later runs.',
    ])
    expect(referenceOf((await proofOfLoop(app.context, { loopId: loop.id })).macros)).toEqual(reference)
    expect(frozenOf(app, (await startRun(app.context, loop)).id)).toEqual(reference)

    // Five dark ones come, and one goes.
    setOf(app, 421, 438, 436, 437, 419)
    rmSync(join(app.intake, '418.jpg'))
    expect(await notes(app, loop)).toEqual([
      'Evened out to the middle of 3 pictures, kept since this loop first ran. There are 7 now; the new ones are brought to the same.',
    ])
    expect(frozenOf(app, (await startRun(app.context, loop)).id)).toEqual(reference)

    expect(measureSetAnew(app.context, loop.id)).toBe(true)
    const anew = referenceOf((await preflight(app.context, loop)).macros)
    expect(anew).toHaveLength(17)
    expect(anew).not.toEqual(reference)
    expect(() => measureSetAnew(app.context, 'loop-0')).toThrow()
  })

  it('follows the intake until a run has gone by it, and is another set’s once pictures are numbered all anew', async () => {
    const app = testApplication(steps)
    setOf(app, 415)
    const loop = testLoop(app)
    const first = referenceOf((await preflight(app.context, loop)).macros)
    setOf(app, 418, 421)
    const second = referenceOf((await preflight(app.context, loop)).macros)
    expect(second).not.toEqual(first)
    // A try, and pictures that were handed in, are brought to what the set has, and settle nothing.
    expect(frozenOf(app, (await tryLoop(app.context, loop)).id)).toEqual(second)
    expect(frozenOf(app, (await startRun(app.context, loop, { files: [join(app.intake, '421.jpg')] })).id)).toEqual(second)
    expect(await notes(app, loop)).toEqual(['Evened out to the middle of 3 pictures, which will be kept for later runs.'])
    await startRun(app.context, loop)
    rmSync(join(app.intake, '421.jpg'))
    expect(referenceOf((await preflight(app.context, loop)).macros)).toEqual(second)
    expect(referenceOf((await preflight(app.context, { ...loop, numberSet: loop.numberSet + 1 })).macros)).not.toEqual(second)
  })

  it('does not depend on the order of the pictures', async () => {
    const app = testApplication(steps)
    setOf(app, 415, 418, 440, 421)
    const loop = testLoop(app)
    const byName = referenceOf((await preflight(app.context, loop)).macros)
    measureSetAnew(app.context, loop.id)
    const byTime = { ...loop, intake: { ...loop.intake, order: 'taken' as const } }
    expect(referenceOf((await preflight(app.context, byTime)).macros)).toEqual(byName)
  })

  it('says so where nothing can be measured', async () => {
    const app = testApplication(steps)
    fillIntake(app, 1, 'demo/odd-files/truncated.jpg')
    expect(await notes(app, testLoop(app))).toContain('No picture of the set could be measured: none is evened out.')
  })
})
