import { cpSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import Ajv2020 from 'ajv/dist/2020'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import { readTouchUpFile, touchUpJsonSchema } from '@/jobs/touch-up-file'
import { newStep } from '@/macros/step'
import { fillIntake, type TestApplication, testApplication, testLoop, testMacroId } from '../../tests/application'
import { reviseMacro } from './macros'
import { preflight } from './preflight/preflight'
import { proofOfLoop } from './proof'
import { proofSmall } from './proof-pictures'
import { dropLostSteps, exportTouchUps, importTouchUps } from './touch-up-files'
import { stepTouchUp, touchUpPicture, touchUpsOf } from './touch-ups'

const crop = newStep('crop', 'crop', { shape: 'pixels', widthPx: 500, heightPx: 500 })
const higher: TouchUp = { ...untouched, settings: [{ macroId: testMacroId, stepId: 'crop', settings: { positionYPercent: 20 } }] }
const darker: TouchUp = { ...untouched, after: [newStep('exposure', 'own', { exposureEv: -0.33 })] }

/** Three pictures of different content, and a loop over them. */
function application() {
  const app = testApplication([crop])
  for (const [at, number] of ['0418', '0419', '0421'].entries())
    cpSync(`demo/pictures/vessels/TLK27_${number}.jpg`, join(app.intake, `picture-${at + 1}.jpg`))
  return { app, loop: testLoop(app) }
}
const picture = (app: TestApplication, number: number): string => join(app.intake, `picture-${number}.jpg`)
const touch = (app: TestApplication, loopId: string, number: number, touchUp: TouchUp, version = 0) =>
  touchUpPicture(app.context, { loopId, sourcePath: picture(app, number), touchUp, version })
const own = (app: TestApplication, loopId: string): Record<string, TouchUp> =>
  Object.fromEntries(touchUpsOf(app.context, loopId).map(({ sourcePath, touchUp }) => [sourcePath.slice(app.intake.length + 1), touchUp]))

describe('a file of touch-ups', () => {
  it('goes out and comes in elsewhere: to the same content under other names, for a macro of the same name', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, higher)
    await touch(app, loop.id, 3, { ...darker, lookedAt: true })
    const text = exportTouchUps(app.context, loop.id)
    const validate = new Ajv2020({ strict: false }).compile(touchUpJsonSchema())
    expect([validate(JSON.parse(text)), validate.errors]).toEqual([true, null])

    const other = application()
    mkdirSync(join(other.app.intake, 'below'))
    renameSync(picture(other.app, 1), join(other.app.intake, 'below/renamed.jpg'))
    expect(await importTouchUps(other.app.context, other.loop.id, text)).toEqual({ taken: 2, unknown: [], changed: [] })
    expect(own(other.app, other.loop.id)).toEqual({ 'below/renamed.jpg': higher, 'picture-3.jpg': { ...darker, lookedAt: true } })
  })
  it('finds a picture of another content by its name and says so; pictures that are not there are named', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, higher)
    await touch(app, loop.id, 2, darker)
    const text = exportTouchUps(app.context, loop.id)
    const other = testApplication([crop])
    fillIntake(other, 1, 'demo/pictures/vessels/TLK27_0425.jpg')
    const answer = await importTouchUps(other.context, testLoop(other).id, text)
    expect(answer).toEqual({ taken: 1, unknown: ['picture-2.jpg'], changed: ['picture-1.jpg'] })
  })
  it('takes the place of what a picture had, which can be had back', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, higher)
    const text = exportTouchUps(app.context, loop.id)
    await touch(app, loop.id, 1, darker, 1)
    await importTouchUps(app.context, loop.id, text)
    expect(own(app, loop.id)).toEqual({ 'picture-1.jpg': higher })
    expect(stepTouchUp(app.context, { loopId: loop.id, sourcePath: picture(app, 1), version: 3 }, -1)).toMatchObject({ touchUp: darker })
  })
  it('that is broken is refused as a whole, whatever it holds', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, higher)
    const file = JSON.parse(exportTouchUps(app.context, loop.id))
    const broken = [
      '',
      '{}',
      '[1, 2',
      JSON.stringify({ ...file, version: 9 }),
      JSON.stringify({ ...file, pictures: [...file.pictures, { ...file.pictures[0], sha256: '../../etc/passwd' }] }),
      JSON.stringify({ ...file, pictures: [...file.pictures, { ...file.pictures[0], touchUp: { ...untouched, after: [{ id: 'x' }] } }] }),
    ]
    for (const text of broken) await expect(importTouchUps(app.context, loop.id, text)).rejects.toThrow(/can't be used|invalid/i)
    expect(touchUpsOf(app.context, loop.id)).toHaveLength(1)
    expect(touchUpsOf(app.context, loop.id)[0]?.version).toBe(1)
  })
  it('of anything at all is read or refused, never anything else', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        expect(() => readTouchUpFile(text)).toThrow(expect.objectContaining({ name: 'AppError' }))
      }),
    )
  })
})

describe('touch-ups whose step the macro has lost', () => {
  it('can be dropped by one button, or the loop stays with the older revision', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, { ...higher, after: darker.after })
    reviseMacro(app.context, testMacroId, [newStep('saturation', 'colour')])
    const problem = (await preflight(app.context, loop)).problems.find(({ remedy }) => remedy)
    expect(problem).toMatchObject({ remedy: { label: 'Drop it', does: 'dropLostSteps' }, mend: { label: 'Stay with r1 of Quick' } })
    const stays = { ...loop, ...problem?.mend?.change }
    expect((await preflight(app.context, stays)).problems.some(({ remedy }) => remedy)).toBe(false)

    expect(dropLostSteps(app.context, loop.id)).toBe(1)
    expect(own(app, loop.id)).toEqual({ 'picture-2.jpg': darker })
    expect((await preflight(app.context, loop)).problems.some(({ remedy }) => remedy)).toBe(false)
    expect(dropLostSteps(app.context, loop.id)).toBe(0)
  })
})

describe('small pictures of a proof', () => {
  it('are made once, and anew for what they depend on: the touch-up, the macro, the file', async () => {
    const { app, loop } = application()
    const small = () => proofSmall(app.context, { loopId: loop.id, path: picture(app, 1) })
    const first = await small()
    expect(first.traits).toMatchObject({
      lightness: expect.any(Number),
      sharpnessPercent: expect.any(Number),
      cutPercent: expect.any(Number),
    })
    writeFileSync(first.file, 'kept')
    expect(readFileSync((await small()).file, 'utf8')).toBe('kept')
    const { pictures } = await proofOfLoop(app.context, { loopId: loop.id })
    expect(pictures.map(({ traits }) => traits !== null)).toEqual([true, false, false])

    await touch(app, loop.id, 1, darker)
    const touched = await small()
    expect(touched.key).not.toBe(first.key)
    expect(touched.traits.lightness).toBeLessThan(first.traits.lightness)
    reviseMacro(app.context, testMacroId, [crop, newStep('saturation', 'colour')])
    expect(new Set([first.key, touched.key]).has((await small()).key)).toBe(false)
    cpSync('demo/pictures/vessels/TLK27_0425.jpg', picture(app, 1))
    expect((await small()).traits.sharpnessPercent).not.toBe(first.traits.sharpnessPercent)
  })
  it('of what is gone or broken say so', async () => {
    const { app, loop } = application()
    await expect(proofSmall(app.context, { loopId: loop.id, path: join(app.intake, 'gone.jpg') })).rejects.toMatchObject({
      code: 'fileMissing',
    })
    writeFileSync(picture(app, 2), 'no picture')
    await expect(proofSmall(app.context, { loopId: loop.id, path: picture(app, 2) })).rejects.toMatchObject({ name: 'AppError' })
    await expect(proofSmall(app.context, { loopId: loop.id, path: '/etc/passwd' })).rejects.toMatchObject({ name: 'AppError' })
  })
})
