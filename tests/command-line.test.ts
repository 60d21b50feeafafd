import { type ChildProcess, spawn } from 'node:child_process'
import { readdirSync, renameSync, symlinkSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { listRuns } from '@/services/runs/summary'
import { queuedRuns } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from './application'
import { ended, pause } from './runner-process'
import { childrenOf } from './web-process'

/* The command line as a process, alone: it brings a runner of its own. */

interface Said {
  readonly child: ChildProcess
  out(): string
}

function line(app: TestApplication, words: readonly string[], environment: Readonly<Record<string, string>> = {}): Said {
  const child = spawn(process.execPath, ['.build/cli.mjs', ...words], {
    env: { ...app.environment, COPPER_LOOP_LOG: 'silent', ...environment },
  })
  let text = ''
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (bytes) => (text += bytes))
  return { child, out: () => text }
}
async function done({ child, out }: Said, patienceMs = 180_000): Promise<string> {
  const late = pause(patienceMs).then(() => 'late' as const)
  if ((await Promise.race([ended(child), late])) === 'late') {
    child.kill('SIGKILL')
    throw new Error(`It hangs: ${out()}`)
  }
  return out()
}

describe('the command line', () => {
  it('runs one loop after the other, each to its end', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    testLoop(app, { name: 'Shop' }, { namePattern: '{run}-{name}' })
    for (const run of [1, 2, 3]) expect(await done(line(app, ['run', 'Shop']))).toMatch(new RegExp(`Run ${run}: 3 delivered, 0 failed`))
    expect(readdirSync(app.delivery)).toHaveLength(9)
  })

  it('leaves no run of another behind when its own is over, and the last runner leaves too', async () => {
    const app = testApplication()
    fillIntake(app, 12)
    testLoop(app, { name: 'Long' }, { namePattern: 'long-{name}' })
    testLoop(app, { name: 'Short' }, { namePattern: 'short-{name}' })
    const short = line(app, ['run', 'Short', join(app.intake, 'picture-1.jpg')], { COPPER_LOOP_WORKERS: '1' })
    for (let tries = 0; queuedRuns(app.context.db).length === 0 && tries < 400; tries++) await pause(25)
    const long = line(app, ['run', 'Long'])
    expect(await done(short)).toMatch(/1 delivered/)
    expect(await done(long)).toMatch(/12 delivered, 0 failed/)
    for (let tries = 0; childrenOf(process.pid).some(({ command }) => command.includes('--only-queue')) && tries < 200; tries++)
      await pause(50)
    expect(childrenOf(process.pid).filter(({ command }) => command.includes('--only-queue'))).toEqual([])
  })

  it('brings a runner again when its own is killed', async () => {
    const app = testApplication()
    fillIntake(app, 10)
    testLoop(app, { name: 'Shop' })
    const shop = line(app, ['run', 'Shop'], { COPPER_LOOP_WORKERS: '1' })
    const runner = (): number | undefined => childrenOf(shop.child.pid ?? 0).find(({ command }) => command.includes('--only-queue'))?.pid
    for (let tries = 0; (listRuns(app.context).runs[0]?.totals.done ?? 0) < 2 && tries < 400; tries++) await pause(25)
    process.kill(runner() ?? 0, 'SIGKILL')
    expect(await done(shop)).toMatch(/10 delivered, 0 failed/)
  })

  it('stops its run when it is interrupted, and leaves nothing that goes on by itself', async () => {
    const app = testApplication()
    fillIntake(app, 30)
    testLoop(app, { name: 'Shop' })
    const shop = line(app, ['run', 'Shop'], { COPPER_LOOP_WORKERS: '1' })
    for (let tries = 0; (listRuns(app.context).runs[0]?.totals.done ?? 0) < 2 && tries < 400; tries++) await pause(25)
    shop.child.kill('SIGINT')
    expect(await done(shop)).toMatch(/Stopping the run[\s\S]*\d+ delivered, 0 failed, \d+ skipped/)
    expect(queuedRuns(app.context.db)).toEqual([])
  })

  it('writes out what a name would have the terminal do', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    renameSync(join(app.intake, 'picture-1.jpg'), join(app.intake, 'a\u001b[2J\u0007b\u202e.jpg'))
    symlinkSync('/nowhere', join(app.intake, 'x.jpg'))
    testLoop(app, { name: 'Shop' })
    const said = await done(line(app, ['run', 'Shop', '--dry']))
    expect(said).toContain('\\u001b[2J\\u0007b\\u202e.jpg')
    for (const order of ['\u001b', '\u0007', '\u202e']) expect(said).not.toContain(order)
  })
})
