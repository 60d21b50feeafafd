import { copyFileSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf } from '@/jobs/loop'
import { onePictureId } from '@/jobs/run'
import { newStep } from '@/macros/step'
import { listItems } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../../tests/application'
import { intakePictures } from './intake-pictures'
import { allLoops } from './loops'
import { preflight } from './preflight/preflight'
import { deliverPicture } from './runs/one-picture'
import { startRun } from './runs/start'
import { runSteps } from './runs/summary'

function fourPictures() {
  const app = testApplication()
  fillIntake(app, 3)
  mkdirSync(join(app.intake, 'tall'))
  copyFileSync(join(app.intake, 'picture-1.jpg'), join(app.intake, 'tall', 'other.jpg'))
  const at = (name: string): string => join(app.intake, name)
  return { app, at }
}

describe('a loop of picked pictures', () => {
  it('takes just these, by their place in its folder, in the order of their paths', async () => {
    const { app, at } = fourPictures()
    const loop = testLoop(app, {
      intake: intakeOf(app.intake, { picked: [at('tall/other.jpg'), at('picture-3.jpg'), at('picture-2.jpg')] }),
    })
    const { pictures, problems } = await preflight(app.context, loop)
    expect(problems).toEqual([])
    expect(pictures.map(({ relativePath }) => relativePath)).toEqual(['picture-2.jpg', 'picture-3.jpg', 'tall/other.jpg'])
    const run = await startRun(app.context, loop)
    expect(listItems(app.context.db, run.id)).toHaveLength(3)
  })

  it('names those that are gone, and goes on with the others; without any it does not run', async () => {
    const { app, at } = fourPictures()
    const picked = [at('picture-1.jpg'), at('picture-2.jpg'), at('tall/other.jpg')]
    const loop = testLoop(app, { intake: intakeOf(app.intake, { picked }) })
    rmSync(at('picture-2.jpg'))
    rmSync(at('tall/other.jpg'))
    const { pictures, problems } = await preflight(app.context, loop)
    expect(pictures).toHaveLength(1)
    expect(problems.map(({ blocks, sentence }) => [blocks, sentence])).toEqual([
      [false, '2 pictures that were picked are gone: picture-2.jpg, other.jpg.'],
    ])
    expect(problems[0]?.mend?.change.intake?.picked).toEqual([at('picture-1.jpg')])
    rmSync(at('picture-1.jpg'))
    expect((await preflight(app.context, loop)).problems.some(({ blocks }) => blocks)).toBe(true)
    const none = testLoop(app, { intake: intakeOf(app.intake, { picked: [] }) })
    expect((await preflight(app.context, none)).problems[0]).toMatchObject({ blocks: true, sentence: 'Pick the pictures to take.' })
    const outside = testLoop(app, { intake: intakeOf(app.intake, { picked: ['/etc/passwd.jpg'] }) })
    expect((await preflight(app.context, outside)).problems[0]).toMatchObject({
      blocks: true,
      sentence: expect.stringMatching(/lies outside/),
    })
  })

  it('is picked from all that lies in its folders, whatever it takes now', async () => {
    const { app, at } = fourPictures()
    const intake = intakeOf(app.intake, { picked: [at('picture-1.jpg')], only: [{ field: 'name', is: 'like', value: 'none' } as never] })
    const { pictures, of } = await intakePictures(app.context, intake)
    expect([pictures.map(({ relativePath }) => relativePath), of]).toEqual([
      ['picture-1.jpg', 'picture-2.jpg', 'picture-3.jpg', 'tall/other.jpg'],
      4,
    ])
    expect(await intakePictures(app.context, intakeOf(''))).toEqual({ pictures: [], of: 0 })
  })

  it('may take some others this once, and takes what it took before the next time', async () => {
    const { app, at } = fourPictures()
    const loop = testLoop(app)
    const run = await startRun(app.context, loop, { files: [at('picture-2.jpg')] })
    expect(listItems(app.context.db, run.id).map(({ sourcePath }) => sourcePath)).toEqual([at('picture-2.jpg')])
    expect((await preflight(app.context, loop)).pictures).toHaveLength(4)
  })
})

describe('one picture, delivered by itself', () => {
  it('is a run of its own steps and no loop, ahead of what waits', async () => {
    const { app, at } = fourPictures()
    const before = readFileSync(at('picture-1.jpg'))
    const loops = allLoops(app.context).length
    const waiting = await startRun(app.context, testLoop(app))
    const steps = [newStep('saturation', 'a', { saturationPercent: -20 })]
    const delivery = { ...defaultDelivery('one', app.delivery), namePattern: '{name}-now' }
    const run = await deliverPicture(app.context, { sourcePath: at('picture-1.jpg'), steps, delivery })
    expect(run.loopId).toBe(onePictureId)
    expect(runSteps(app.context, run.id).steps.map(({ operation }) => operation)).toEqual(['saturation'])
    const [item] = listItems(app.context.db, run.id)
    expect(item?.results.map(({ targetPath }) => targetPath)).toEqual([join(app.delivery, 'picture-1-now.jpg')])
    expect(waiting.state).toBe('waiting')
    expect(allLoops(app.context)).toHaveLength(loops + 1)
    expect(readFileSync(at('picture-1.jpg'))).toEqual(before)
  })

  it('is refused in words: a folder that may not be used, a picture that is gone, steps that are none', async () => {
    const { app, at } = fourPictures()
    const deliver = (sourcePath: string, folder: string, steps: unknown[] = []) =>
      deliverPicture(app.context, { sourcePath, steps: steps as never, delivery: defaultDelivery('one', folder) })
    await expect(deliver(at('picture-1.jpg'), '/etc')).rejects.toThrow(AppError)
    await expect(deliver(at('gone.jpg'), app.delivery)).rejects.toMatchObject({ code: 'loopNotReady' })
    await expect(deliver(at('picture-1.jpg'), app.intake)).rejects.toMatchObject({ code: 'loopNotReady' })
    await expect(deliver(at('picture-1.jpg'), app.delivery, [{ operation: 7 }])).rejects.toMatchObject({ code: 'macroInvalid' })
  })
})
