import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import jpegJs from 'jpeg-js'
import { describe, expect, it } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { sha256 } from '@/files/placing'
import { changesNothing, isSameWork, type TouchUp, untouched } from '@/jobs/touch-up'
import { newStep } from '@/macros/step'
import { proofOfLoop } from '@/services/proof'
import { runReport } from '@/services/runs/report'
import { startRun } from '@/services/runs/start'
import { touchUpPicture } from '@/services/touch-ups'
import { fillIntake, testApplication, testLoop } from './application'
import { isDone, launchingRunners, runUntil } from './runner-process'

/* A few pictures of a delivered set are put right, and only their files are delivered again: by the real runner. */

const launch = launchingRunners()
const darker: TouchUp = { ...untouched, after: [newStep('exposure', 'own', { exposureEv: -1 })] }

const hashesOf = (folder: string): Record<string, string> =>
  Object.fromEntries(
    readdirSync(folder)
      .sort()
      .map((name) => [name, sha256(readFileSync(join(folder, name)))]),
  )

/** Mean light of a delivered picture, as an independent decoder reads it. */
function lightOf(path: string): number {
  const { data } = jpegJs.decode(readFileSync(path), { useTArray: true })
  let sum = 0
  for (let i = 0; i < data.length; i += 4) sum += srgbTransfer.decode((data[i + 1] ?? 0) / 255)
  return sum / (data.length / 4)
}

it('two touch-ups make the same, in whatever order they are written and whoever looked', () => {
  const turned = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(turned)
    if (value === null || typeof value !== 'object') return value
    const entries = Object.entries(value).map(([key, part]) => [key, turned(part)] as const)
    return Object.fromEntries(entries.reverse())
  }
  expect(isSameWork(darker, { ...(turned(darker) as TouchUp), lookedAt: true })).toBe(true)
  expect(isSameWork(darker, { ...darker, after: [newStep('exposure', 'own', { exposureEv: -0.9 })] })).toBe(false)
  expect(isSameWork(darker, untouched)).toBe(false)
})

describe('pictures touched up after a run', () => {
  it('are delivered again alone, in the place of their own files, and keep what they have in every later run', async () => {
    const app = testApplication([newStep('resize', 'size', { lengthPx: 160 })])
    fillIntake(app, 4)
    const loop = testLoop(app, {}, { namePattern: '{n:001}-{name}', sidecar: true })
    launch(app)
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    const before = hashesOf(app.delivery)
    const light = lightOf(join(app.delivery, '002-picture-2.jpg'))

    await touchUpPicture(app.context, { loopId: loop.id, sourcePath: join(app.intake, 'picture-2.jpg'), touchUp: darker, version: 0 })
    const again = await startRun(app.context, loop, { only: 'touched' })
    expect((await runUntil(app, again.id, isDone)).totals).toMatchObject({ done: 1, failed: 0, skipped: 0 })
    const after = hashesOf(app.delivery)
    expect(Object.keys(after)).toEqual(Object.keys(before))
    expect(Object.keys(after).filter((name) => after[name] !== before[name])).toEqual(['002-picture-2.jpg', '002-picture-2.jpg.steps.json'])
    // One stop darker is half of the light, but for what JPEG and rounding take.
    expect(lightOf(join(app.delivery, '002-picture-2.jpg')) / light).toBeCloseTo(0.5, 2)
    expect(runReport(app.context, again.id).pictures).toMatchObject([{ touchedUp: '1.00 EV darker', sourceUnchanged: true }])

    const { pictures } = await proofOfLoop(app.context, { loopId: loop.id })
    expect(pictures.map(({ delivered }) => delivered && changesNothing(delivered.touchUp))).toEqual([true, false, true, true])

    // That somebody looked at it makes nothing new to deliver.
    const looked = { ...darker, lookedAt: true }
    await touchUpPicture(app.context, { loopId: loop.id, sourcePath: join(app.intake, 'picture-2.jpg'), touchUp: looked, version: 1 })
    // Nothing is left to deliver; a whole run makes the same file again.
    await expect(startRun(app.context, loop, { only: 'touched' })).rejects.toThrow(/nothing was touched up/)
    expect((await startRun(app.context, loop, { only: 'changed' })).totals).toMatchObject({ waiting: 0, skipped: 4 })
    const whole = await startRun(app.context, loop)
    await runUntil(app, whole.id, isDone)
    const made = runReport(app.context, whole.id).pictures.map(({ deliveredSha256 }) => deliveredSha256)
    expect(made[1]).toBe(after['002-picture-2.jpg'])

    // Taken back, the file that was delivered last is what it was before any of this, to the byte.
    await touchUpPicture(app.context, { loopId: loop.id, sourcePath: join(app.intake, 'picture-2.jpg'), touchUp: untouched, version: 2 })
    await runUntil(app, (await startRun(app.context, loop, { only: 'touched' })).id, isDone)
    expect(hashesOf(app.delivery)['002-picture-2-2.jpg']).toBe(before['002-picture-2.jpg'])
  })
  it('leave a file alone that is not what this loop delivered', async () => {
    const app = testApplication([newStep('resize', 'size', { lengthPx: 160 })])
    fillIntake(app, 2)
    const loop = testLoop(app)
    launch(app)
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    const path = join(app.delivery, 'picture-1.jpg')
    const foreign = readFileSync('demo/odd-files/SHELF.JPG')
    const { writeFileSync } = await import('node:fs')
    writeFileSync(path, foreign)
    await touchUpPicture(app.context, { loopId: loop.id, sourcePath: join(app.intake, 'picture-1.jpg'), touchUp: darker, version: 0 })
    const again = await startRun(app.context, loop, { only: 'touched' })
    expect((await runUntil(app, again.id, isDone)).totals).toMatchObject({ done: 0, failed: 1 })
    expect(sha256(readFileSync(path))).toBe(sha256(foreign))
  })
})
