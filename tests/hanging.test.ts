import { execFileSync } from 'node:child_process'
import { readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { stopRun } from '@/services/runs/control'
import { startRun } from '@/services/runs/start'
import { runResults } from '@/services/runs/summary'
import { fillIntake, type TestApplication, testApplication, testLoop } from './application'
import { ended, isDone, launchingRunners, pause, runUntil } from './runner-process'
import { soak } from './soak'
import { answers, type RunningApplication, startApplication } from './web-process'

/* What hangs in native code, or on a disk that has gone away, costs one picture or one answer. The real processes. */

const launch = launchingRunners()

let application: RunningApplication | undefined
afterEach(async () => {
  await application?.stop()
  application = undefined
})

/** An application in which paths that say so are never answered. */
function hangingApplication(): { app: TestApplication; environment: Record<string, string> } {
  const app = testApplication()
  const pipe = join(app.root, '..', 'pipe')
  execFileSync('mkfifo', [pipe])
  const environment = {
    COPPER_LOOP_TROUBLE: 'allowed',
    COPPER_LOOP_TROUBLE_PIPE: pipe,
    COPPER_LOOP_PATIENCE_MS: '7000',
    COPPER_LOOP_HELPER_PATIENCE_MS: '4000',
  }
  return { app, environment }
}

/** A drawing of 10¹¹ circles that no renderer comes to the end of. */
const bomb = (): string => {
  const levels = Array.from({ length: 11 }, (_, i) => {
    const inner = i === 0 ? '<circle r="1"/>' : `<use href="#l${i - 1}"/>`.repeat(10)
    return `<g id="l${i}">${inner}</g>`
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" width="900" height="900"><defs>${levels.join('')}</defs><use href="#l10"/></svg>`
}

describe('a runner', () => {
  it('loses only the pictures that hang for ever, more of them than it has threads, and ends when told to', soak, async () => {
    const { app, environment } = hangingApplication()
    fillIntake(app, 12)
    for (let i = 1; i <= 6; i++) renameSync(join(app.intake, `picture-${i}.jpg`), join(app.intake, `native-hang-${i}.jpg`))
    const runner = launch(app, { ...environment, COPPER_LOOP_WORKERS: '2' })
    const run = await startRun(app.context, testLoop(app))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 6, failed: 6 })
    for (const row of runResults(app.context, run.id).filter(({ state }) => state === 'failed'))
      expect(row.error).toMatch(/native-hang-\d\.jpg stopped twice without an answer \(no answer within/)
    runner.kill('SIGTERM')
    const late = pause(15_000).then(() => 'late')
    expect(await Promise.race([ended(runner), late])).not.toBe('late')
  })

  it('opens no drawing, whatever it is called, and no pipe that came into a picture’s place', async () => {
    const app = testApplication()
    fillIntake(app, 8)
    for (const i of [1, 2, 3, 4, 5]) writeFileSync(join(app.intake, `picture-${i}.jpg`), bomb())
    const run = await startRun(app.context, testLoop(app))
    for (const i of [6, 7]) {
      rmSync(join(app.intake, `picture-${i}.jpg`))
      execFileSync('mkfifo', [join(app.intake, `picture-${i}.jpg`)])
    }
    launch(app)
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 1, failed: 7 })
    const errors = runResults(app.context, run.id).map(({ error }) => error ?? '')
    expect(errors.filter((error) => /is not a picture/.test(error))).toHaveLength(5)
    expect(errors.filter((error) => /is no file/.test(error))).toHaveLength(2)
  })
})

describe('the web', () => {
  it('goes on giving answers while others hang, more of them than it has threads', async () => {
    const { app, environment } = hangingApplication()
    fillIntake(app, 4)
    writeFileSync(join(app.intake, 'native-hang.jpg'), 'x')
    application = await startApplication({ ...app.environment, ...environment })
    const small = (name: string): Promise<Response> =>
      fetch(`${application?.address}/api/pictures/thumbnail?edge=160&path=${encodeURIComponent(join(app.intake, name))}`)
    const hanging = Array.from({ length: 6 }, () => small('native-hang.jpg'))
    await pause(300)
    expect((await small('picture-1.jpg')).status).toBe(200)
    expect((await fetch(`${application.address}/api/folders?path=${encodeURIComponent(app.intake)}`)).status).toBe(200)
    for (const answer of await Promise.all(hanging))
      expect([answer.status, await answer.text()]).toEqual([504, expect.stringContaining('noAnswer')])
    expect((await small('picture-2.jpg')).status).toBe(200)
  })

  it('that dies is started again, and no run notices', async () => {
    const app = testApplication()
    fillIntake(app, 16)
    application = await startApplication({ ...app.environment, COPPER_LOOP_WORKERS: '1' })
    const run = await startRun(app.context, testLoop(app))
    await runUntil(app, run.id, ({ totals }) => totals.done >= 2)
    const [web] = application.children('web.mjs')
    process.kill(web ?? 0, 'SIGKILL')
    await pause(200)
    await answers(application)
    expect(application.children('web.mjs')[0]).not.toBe(web)
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 16 })
    expect(application.said()).toMatch(/The web server ended \(SIGKILL\)/)
  })
})

describe('a stopped run', () => {
  it('has nothing waiting, though its runner died in the middle of a picture', async () => {
    const { app, environment } = hangingApplication()
    fillIntake(app, 3)
    renameSync(join(app.intake, 'picture-1.jpg'), join(app.intake, 'native-hang.jpg'))
    const first = launch(app, { ...environment, COPPER_LOOP_PATIENCE_MS: '60000', COPPER_LOOP_WORKERS: '1' })
    const run = await startRun(app.context, testLoop(app))
    await runUntil(app, run.id, ({ totals }) => totals.working === 1)
    stopRun(app.context, run.id)
    first.kill('SIGKILL')
    await ended(first)
    launch(app)
    const { totals } = await runUntil(app, run.id, ({ totals }) => totals.working === 0)
    expect(totals).toMatchObject({ waiting: 0, done: 0, skipped: 3 })
    expect(readdirSync(app.delivery)).toEqual([])
  })
})
