import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import jpegJs from 'jpeg-js'
import { afterEach, describe, expect, it } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { sha256 } from '@/files/placing'
import { changesNothing, isSameWork, type TouchUp, untouched } from '@/jobs/touch-up'
import { newStep } from '@/macros/step'
import { proofOfLoop } from '@/services/proof'
import { runReport } from '@/services/runs/report'
import { startRun } from '@/services/runs/start'
import { stepTouchUp, touchUpPicture, touchUpsOf } from '@/services/touch-ups'
import { fillIntake, testApplication, testLoop } from './application'
import { isDone, launchingRunners, pause, runUntil } from './runner-process'
import { soak } from './soak'
import { type RunningApplication, startApplication } from './web-process'

/* A few pictures of a delivered set are put right, and only their files are delivered again: by the real runner. */

const launch = launchingRunners()
let application: RunningApplication | undefined
afterEach(async () => {
  await application?.stop()
  application = undefined
})
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

describe('a kill of web and runner while touch-ups are stored and a run is under way', () => {
  it('loses nothing that was answered, and the run goes on with what was frozen', soak, async () => {
    const app = testApplication([newStep('local-contrast', 'slow'), newStep('resize', 'size', { lengthPx: 160 })])
    fillIntake(app, 10)
    const loop = testLoop(app)
    application = await startApplication(app.environment)
    const run = await startRun(app.context, loop)
    const sourcePath = join(app.intake, 'picture-10.jpg')
    const url = `${application.address}/api/loops/${loop.id}/touch-ups`
    let [answered, tries, kills] = [0, 0, 0]
    while (answered < 30 && tries < 2000) {
      tries++
      const touchUp = { ...untouched, after: [newStep('exposure', 'own', { exposureEv: -(answered + 1) / 20 })] }
      const body = JSON.stringify({ sourcePath, touchUp, version: answered })
      const headers = { 'Content-Type': 'application/json', 'Sec-Fetch-Site': 'same-origin' }
      const answer = await fetch(url, { method: 'POST', headers, body }).catch(() => undefined)
      // Stored though the answer was lost: said as a change of another window's.
      if (answer?.ok || answer?.status === 409) answered = touchUpsOf(app.context, loop.id)[0]?.version ?? 0
      else await pause(50)
      expect(touchUpsOf(app.context, loop.id)[0]?.version ?? 0).toBeGreaterThanOrEqual(answered)
      if (answered % 10 === 7 && kills < answered / 10) {
        kills++
        const processes = ['web.mjs', 'runner.mjs'].flatMap((file) => application?.children(file) ?? [])
        expect(processes).toHaveLength(2)
        for (const pid of processes) process.kill(pid, 'SIGKILL')
      }
    }
    expect(kills).toBe(3)
    expect(answered).toBeGreaterThanOrEqual(30)
    // Every change is there to be taken back, one after the other.
    for (let version = answered; version > 0; version--)
      stepTouchUp(app.context, { loopId: loop.id, sourcePath, version: touchUpsOf(app.context, loop.id)[0]?.version ?? 0 }, -1)
    expect(changesNothing(touchUpsOf(app.context, loop.id)[0]?.touchUp ?? untouched)).toBe(true)

    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 10, failed: 0 })
    const made = hashesOf(app.delivery)
    // All sources are the same picture, and the run was begun before any of it was touched up.
    expect(new Set(Object.values(made)).size).toBe(1)
  })
})
