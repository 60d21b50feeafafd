import { cpSync, mkdirSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changesNothing, checkTouchUp, describeTouchUp, type TouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { newStep, type Step } from '@/macros/step'
import { listItems } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop, testMacroId } from '../../tests/application'
import { reviseMacro } from './macros'
import { preflight } from './preflight/preflight'
import { startRun } from './runs/start'
import { stepTouchUp, touchUpPicture, touchUpsOf } from './touch-ups'

const crop = newStep('crop', 'crop', { shape: 'pixels', widthPx: 500, heightPx: 500 })
const darker: TouchUp = { ...untouched, after: [newStep('exposure', 'own', { exposureEv: -0.33 })] }
const higher: TouchUp = { ...untouched, settings: [{ macroId: testMacroId, stepId: 'crop', settings: { positionYPercent: 20 } }] }

function application() {
  const app = testApplication([crop, newStep('saturation', 'colour', { saturationPercent: 5 })])
  fillIntake(app, 3, 'demo/odd-files/SHELF.JPG')
  // Each its own content.
  for (const i of [2, 3]) cpSync(`demo/pictures/vessels/TLK27_041${i + 5}.jpg`, picture(app, i))
  return { app, loop: testLoop(app) }
}
const picture = (app: TestApplication, i: number): string => join(app.intake, `picture-${i}.jpg`)
const touch = (app: TestApplication, loopId: string, i: number, touchUp: unknown, version = 0) =>
  touchUpPicture(app.context, { loopId, sourcePath: picture(app, i), touchUp, version })

describe('a touch-up', () => {
  const macros = [{ macroId: 'm', steps: [crop, newStep('saturation', 'colour')] as Step[] }]
  it('puts a picture’s own steps around the macros’, and changes or leaves out some of these', () => {
    const own: TouchUp = {
      ...untouched,
      before: [newStep('turn', 'first')],
      after: [newStep('exposure', 'last')],
      settings: [{ macroId: 'm', stepId: 'crop', settings: { widthPx: 300 } }],
      without: [{ macroId: 'm', stepId: 'colour' }],
    }
    const steps = touchedSteps(macros, own)
    expect(steps.map(({ id }) => id)).toEqual(['first', 'crop', 'last'])
    expect(steps[1]?.settings).toEqual({ ...crop.settings, widthPx: 300 })
    expect(touchedSteps(macros, untouched)).toEqual(macros[0]?.steps)
  })
  it('is told in words', () => {
    const words = describeTouchUp({ ...darker, ...{ settings: higher.settings, setAside: true } }, [
      { macroId: testMacroId, steps: [crop] },
    ])
    expect(words).toEqual(['0.33 EV darker', 'frame 30 % higher', 'set aside'])
  })
  it.each<[string, unknown]>([
    ['nothing', null],
    ['a number', 7],
    ['something unknown', { ...untouched, sparkle: 1 }],
    ['a step that is none', { ...untouched, after: [{ id: 'x' }] }],
    ['a setting out of range', { ...higher, settings: [{ macroId: 'm', stepId: 'crop', settings: { widthPx: -3 } }] }],
    ['a setting that the step lacks', { ...higher, settings: [{ macroId: 'm', stepId: 'crop', settings: { sparkle: 3 } }] }],
    ['one step twice', { ...untouched, before: darker.after, after: darker.after }],
  ])('made of %s is refused', (_, given) => expect(() => checkTouchUp(given, macros)).toThrow(/can't be used/))
  it('of anything at all is taken or refused, never anything else', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (given) => {
        try {
          expect(changesNothing(checkTouchUp(given, macros))).toBeTypeOf('boolean')
        } catch (error) {
          expect((error as Error).name).toBe('AppError')
        }
      }),
    )
  })
})

describe('touch-ups of a loop', () => {
  it('are frozen with their pictures when a run starts, and change no run that waits', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, darker)
    const run = await startRun(app.context, loop)
    await touch(app, loop.id, 2, untouched, 1)
    const frozen = listItems(app.context.db, run.id).map(({ relativePath, touchUp }) => [relativePath, touchUp])
    expect(frozen).toEqual([
      ['picture-1.jpg', null],
      ['picture-2.jpg', darker],
      ['picture-3.jpg', null],
    ])
  })
  it('are foreseen: sizes follow other settings, and what is set aside is left out and said', async () => {
    const { app, loop } = application()
    const smaller = { ...higher, settings: [{ macroId: testMacroId, stepId: 'crop', settings: { widthPx: 320, heightPx: 320 } }] }
    await touch(app, loop.id, 2, smaller)
    await touch(app, loop.id, 3, { ...untouched, setAside: true })
    const { pictures } = await preflight(app.context, loop)
    expect(pictures.map(({ targets }) => targets[0]?.size.width)).toEqual([500, 320, undefined])
    expect(pictures[2]).toMatchObject({ skip: true, remark: expect.stringContaining('Set aside') })
  })
  it('go with a picture that is moved and renamed; a copy has the same', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, darker)
    mkdirSync(join(app.intake, 'elsewhere'))
    renameSync(picture(app, 2), join(app.intake, 'elsewhere/renamed.jpg'))
    const own = async () =>
      (await preflight(app.context, loop)).pictures.flatMap(({ sourcePath, touchUp }) => (touchUp ? [basename(sourcePath)] : []))
    expect(await own()).toEqual(['renamed.jpg'])
    expect(touchUpsOf(app.context, loop.id).map(({ sourcePath }) => basename(sourcePath))).toEqual(['renamed.jpg'])
    rmSync(picture(app, 1))
    expect(await own()).toEqual(['renamed.jpg'])
  })
  it('stay with the path of a file that was changed, and that is said', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, darker)
    utimesSync(picture(app, 2), 5, 5)
    const { pictures, problems } = await preflight(app.context, loop)
    expect(pictures[1]?.touchUp).toEqual(darker)
    expect(problems.map(({ sentence }) => sentence).join()).toContain('1 file changed since touched up: picture-2.jpg')
  })
  it('of a picture that is gone are kept, said, and there again when it comes back', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, darker)
    renameSync(picture(app, 2), join(app.root, 'away.jpg'))
    const sentences = async () => (await preflight(app.context, loop)).problems.map(({ sentence }) => sentence).join()
    expect(await sentences()).toContain('1 picture with something of its own is not in the intake any more: picture-2.jpg')
    renameSync(join(app.root, 'away.jpg'), picture(app, 2))
    expect(await sentences()).not.toContain('not in the intake')
    expect((await preflight(app.context, loop)).pictures[1]?.touchUp).toEqual(darker)
  })
  it('are told where a newer macro has lost their step, and nothing is dropped', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 2, higher)
    reviseMacro(app.context, testMacroId, [newStep('saturation', 'colour')])
    const { problems } = await preflight(app.context, loop)
    expect(problems.map(({ sentence }) => sentence).join()).toMatch(/picture-2\.jpg.*does nothing until the step is back/)
    expect(touchUpsOf(app.context, loop.id)[0]?.touchUp).toEqual(higher)
  })
  it('are taken back and made again, state by state', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, darker)
    await touch(app, loop.id, 1, higher, 1)
    const which = { loopId: loop.id, sourcePath: picture(app, 1) }
    expect(stepTouchUp(app.context, { ...which, version: 2 }, -1)).toMatchObject({ touchUp: darker, canUndo: true, canRedo: true })
    expect(stepTouchUp(app.context, { ...which, version: 3 }, -1)).toMatchObject({ touchUp: untouched, canUndo: false })
    expect(() => stepTouchUp(app.context, { ...which, version: 4 }, -1)).toThrow()
    expect(stepTouchUp(app.context, { ...which, version: 4 }, 1)).toMatchObject({ touchUp: darker })
    // Something new drops what had been taken back.
    expect(await touch(app, loop.id, 1, { ...untouched, setAside: true }, 5)).toMatchObject({ canRedo: false })
  })
  it('of a window that has fallen behind are refused', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, darker)
    await expect(touch(app, loop.id, 1, higher, 0)).rejects.toMatchObject({ code: 'touchUpMoved' })
    expect(touchUpsOf(app.context, loop.id)[0]?.touchUp).toEqual(darker)
  })
  it('of files outside the roots, or that are none, are refused', async () => {
    const { app, loop } = application()
    writeFileSync(join(app.root, '../outside.jpg'), 'x')
    const outside = { loopId: loop.id, sourcePath: join(app.root, '../outside.jpg'), touchUp: darker, version: 0 }
    await expect(touchUpPicture(app.context, outside)).rejects.toMatchObject({ name: 'AppError' })
    await expect(touch(app, loop.id, 9, darker)).rejects.toMatchObject({ name: 'AppError' })
  })
  it('that only say that somebody has looked change no picture', async () => {
    const { app, loop } = application()
    await touch(app, loop.id, 1, { ...untouched, lookedAt: true })
    expect((await preflight(app.context, loop)).pictures.every(({ touchUp }) => touchUp === null)).toBe(true)
  })
})
