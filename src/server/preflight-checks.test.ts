import { chmodSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/core/loop'
import { newStep } from '@/macro/step'
import { fillIntake, testApplication, testLoop } from '../../tests/application'
import { preflight } from './preflight'
import { estimateBytes } from './preflight-checks'

const sentences = async (...[app, loop]: [ReturnType<typeof testApplication>, ReturnType<typeof testLoop>]) =>
  (await preflight(app.context, loop)).problems.map(({ blocks, sentence }) => `${blocks ? 'blocks' : 'note'}: ${sentence}`)

describe('what a preflight finds before anything is lost', () => {
  it('a stamp that is gone', async () => {
    const app = testApplication([newStep('stamp-image', 's', { file: `${'e'.repeat(64)}/mark.png` })])
    fillIntake(app, 1)
    expect(await sentences(app, testLoop(app))).toEqual([expect.stringMatching(/blocks: Quick: The macro needs the file mark\.png/)])
  })
  it('a macro of which nothing is left', async () => {
    const app = testApplication([{ ...newStep('exposure', 'a'), enabled: false }])
    fillIntake(app, 1)
    expect(await sentences(app, testLoop(app))).toEqual(['note: Quick changes nothing: it has no step that is on.'])
  })
  it('pictures that would be blown up', async () => {
    const app = testApplication([newStep('resize', 'r', { lengthPx: 5000, mayEnlarge: true })])
    fillIntake(app, 2)
    expect(await sentences(app, testLoop(app))).toEqual([expect.stringMatching(/note: 2 pictures will be larger/)])
  })
  it('pictures that lie the other way than a crop of fixed shape', async () => {
    const fixed = testApplication([newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: false })])
    fillIntake(fixed, 2)
    expect(await sentences(fixed, testLoop(fixed))).toEqual([expect.stringMatching(/note: 2 landscape pictures will come out as portrait/)])
    const held = {
      macroId: 'm',
      revision: 1,
      name: 'Held',
      steps: [{ ...newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: false }) }],
    }
    const playing = testApplication([newStep('play-macro', 'p', { macro: held })])
    fillIntake(playing, 1)
    expect(await sentences(playing, testLoop(playing))).toEqual([expect.stringMatching(/note: 1 landscape picture will come out/)])
    const turning = testApplication([newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: true })])
    fillIntake(turning, 2)
    expect(await sentences(turning, testLoop(turning))).toEqual([])
  })
  it.skipIf(process.getuid?.() === 0)('a folder that can’t be written to', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    mkdirSync(join(app.root, 'locked'))
    chmodSync(join(app.root, 'locked'), 0o500)
    expect(await sentences(app, testLoop(app, { deliveries: [defaultDelivery('d', join(app.root, 'locked', 'x'))] }))).toEqual([
      expect.stringMatching(/blocks: Nothing can be written to .*locked/),
    ])
  })
  it('a disk that is too small', async () => {
    const app = testApplication([newStep('resize', 'r', { by: 'percent', scalePercent: 100 })])
    fillIntake(app, 1)
    const loop = testLoop(app)
    const check = await preflight(app.context, loop)
    const [picture] = check.pictures
    const [delivery] = loop.deliveries
    if (!picture || !delivery) throw new Error('Nothing was foreseen')
    const checked = [{ delivery, folder: delivery.folder, pattern: [] }]
    expect(check.totals.estimatedBytes).toBeCloseTo(2400 * 1600 * 0.5, 0)
    expect(estimateBytes([picture, picture, { ...picture, skip: true }], checked)).toBeCloseTo(2400 * 1600, 0)
    const held = { ...delivery, mostKb: 100 }
    expect(estimateBytes([picture], [{ ...checked[0], delivery: held, folder: '', pattern: [] }])).toBe(100_000)
  })
})
