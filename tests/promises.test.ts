import { execFileSync, spawn } from 'node:child_process'
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { sha256 } from '@/files/placing'
import { intakeOf } from '@/jobs/loop'
import { preflight } from '@/services/preflight/preflight'
import { RunnerWatch } from '@/services/runner-watch'
import { runReport } from '@/services/runs/report'
import { startRun } from '@/services/runs/start'
import { runDetail, runResults } from '@/services/runs/summary'
import { listItems } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from './application'
import { seeded } from './pictures'
import { ended, isDone, launchingRunners, pause, runUntil } from './runner-process'

/* Promises about what a run makes of a folder that changes, of damaged files, of links, kept by the real runner. */

const launch = launchingRunners()

const photos = ['0418', '0421', '0422', '0437'].map((number) => `demo/pictures/vessels/TLK27_${number}.jpg`)
const lay = (app: TestApplication, name: string, photo: number): void => cpSync(photos[photo] ?? '', join(app.intake, name))
const delivered = (app: TestApplication): Record<string, string> =>
  Object.fromEntries(readdirSync(app.delivery).map((name) => [name, sha256(readFileSync(join(app.delivery, name)))]))

describe('a number', () => {
  it('stays with its picture: a new one that sorts first goes on after the highest, and replaces nobody’s file', async () => {
    const app = testApplication()
    const names = ['b.jpg', 'c.jpg', 'd.jpg']
    for (const [i, name] of names.entries()) lay(app, name, i)
    const loop = testLoop(app, {}, { namePattern: 'pot {n:01}', whenThere: 'replace' })
    launch(app)
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    const first = delivered(app)
    expect(Object.keys(first)).toEqual(['pot 01.jpg', 'pot 02.jpg', 'pot 03.jpg'])

    lay(app, 'a.jpg', 3)
    const check = await preflight(app.context, loop)
    expect(check.pictures.map(({ targets }) => targets[0]?.name)).toEqual(['pot 04.jpg', 'pot 01.jpg', 'pot 02.jpg', 'pot 03.jpg'])
    expect(check.problems.map(({ sentence }) => sentence)).toContain(
      '3 pictures keep the number that they have in this loop; 1 new one goes on after the highest.',
    )
    await runUntil(app, (await startRun(app.context, loop, { only: 'changed' })).id, isDone)
    expect(delivered(app)).toMatchObject(first)
    expect(Object.keys(delivered(app))).toHaveLength(4)

    // A narrower filter, and one picture gone: the others keep theirs.
    const narrow = { ...loop, intake: intakeOf(app.intake, { only: [{ kind: 'name' as const, like: 'd*' }] }) }
    expect((await preflight(app.context, narrow)).pictures.map(({ targets }) => targets[0]?.name)).toEqual(['pot 03.jpg'])
    rmSync(join(app.intake, 'b.jpg'))
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    expect(delivered(app)).toMatchObject(first)
  })

  it('is given anew where that is asked for, as a new set', async () => {
    const app = testApplication()
    for (const [i, name] of ['b.jpg', 'c.jpg'].entries()) lay(app, name, i)
    const loop = testLoop(app, {}, { namePattern: '{n:1}', whenThere: 'number' })
    await startRun(app.context, loop)
    lay(app, 'a.jpg', 3)
    const { problems } = await preflight(app.context, loop)
    const mend = problems.find(({ mend }) => mend?.change.numberSet !== undefined)?.mend
    const anew = await preflight(app.context, {
      ...loop,
      ...mend?.change,
      deliveries: loop.deliveries.map((each) => ({ ...each, folder: join(app.root, 'second') })),
    })
    expect(anew.pictures.map(({ targets }) => targets[0]?.name)).toEqual(['1.jpg', '2.jpg', '3.jpg'])
  })

  it('counts in each folder by itself, kept there too', async () => {
    const app = testApplication()
    for (const folder of ['x', 'y']) {
      mkdirSync(join(app.intake, folder))
      lay(app, `${folder}/b.jpg`, 0)
    }
    const loop = testLoop(app, {}, { namePattern: '{folder}-{n:1/folder}' })
    await startRun(app.context, loop)
    lay(app, 'x/a.jpg', 1)
    const names = (await preflight(app.context, loop)).pictures.map(({ relativePath, targets }) => [relativePath, targets[0]?.name])
    expect(names).toEqual([
      ['x/a.jpg', 'x-2.jpg'],
      ['x/b.jpg', 'x-1-2.jpg'],
      ['y/b.jpg', 'y-1-2.jpg'],
    ])
  })
})

describe('a name', () => {
  it('that a run in the queue will give is not given again', async () => {
    const app = testApplication()
    fillIntake(app, 5)
    const [one, other] = [testLoop(app), testLoop(app)]
    const first = await startRun(app.context, one)
    expect((await preflight(app.context, other)).problems.map(({ sentence }) => sentence).join()).toMatch(
      /5 pictures would get a name that a run in the queue/,
    )
    const second = await startRun(app.context, other)
    launch(app)
    for (const { id } of [first, second]) expect((await runUntil(app, id, isDone)).totals).toMatchObject({ done: 5, failed: 0 })
    expect(readdirSync(app.delivery)).toHaveLength(10)
  })
  it('of a loop started twice is the same picture’s: the second run replaces what the first made', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const loop = testLoop(app, {}, { whenThere: 'replace' })
    const runs = [await startRun(app.context, loop), await startRun(app.context, loop)]
    launch(app)
    for (const { id } of runs) expect((await runUntil(app, id, isDone)).totals).toMatchObject({ done: 3, failed: 0 })
    expect(readdirSync(app.delivery)).toHaveLength(3)
  })
  it('stays with the picture that has it when another of the same name comes before it', async () => {
    const app = testApplication()
    mkdirSync(join(app.intake, 'b'))
    lay(app, 'b/pot.jpg', 0)
    const loop = testLoop(app, {}, { whenThere: 'replace' })
    launch(app)
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    const first = delivered(app)
    mkdirSync(join(app.intake, 'a'))
    lay(app, 'a/pot.jpg', 1)
    await runUntil(app, (await startRun(app.context, loop)).id, isDone)
    expect(delivered(app)).toMatchObject(first)
    expect(Object.keys(delivered(app))).toEqual(['pot-2.jpg', 'pot.jpg'])
  })
})

describe('a damaged picture', () => {
  /** As a failing disk leaves it: bytes in its middle are gone. */
  function damage(path: string, random: () => number): void {
    const bytes = readFileSync(path)
    const from = Math.floor(bytes.length * (0.3 + 0.3 * random()))
    writeFileSync(path, bytes.fill(0, from, from + 512))
  }
  function damagedFolder(): TestApplication {
    const app = testApplication()
    const random = seeded(3)
    for (let i = 0; i < 8; i++) {
      lay(app, `p${i}.jpg`, i % photos.length)
      damage(join(app.intake, `p${i}.jpg`), random)
    }
    lay(app, 'whole.jpg', 0)
    // Something behind the end, as cameras leave it there, is no damage.
    lay(app, 'more.jpg', 1)
    writeFileSync(join(app.intake, 'more.jpg'), Buffer.concat([readFileSync(join(app.intake, 'more.jpg')), Buffer.from('a film of it')]))
    return app
  }
  it('is told and left out, as a rule', async () => {
    const app = damagedFolder()
    launch(app)
    const run = await startRun(app.context, testLoop(app))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 2, failed: 8 })
    expect(readdirSync(app.delivery).sort()).toEqual(['more.jpg', 'whole.jpg'])
    for (const { error } of runResults(app.context, run.id)) expect(error ?? 'is damaged').toMatch(/is damaged/)
  })
  it('goes out as far as it can be read, and marked, where the loop says so', async () => {
    const app = damagedFolder()
    launch(app)
    const run = await startRun(app.context, testLoop(app, { intake: intakeOf(app.intake, { damaged: 'deliver' }) }))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 10, failed: 0 })
    const marked = runResults(app.context, run.id).filter(({ remarks }) => remarks.some((remark) => /is damaged/.test(remark)))
    expect(marked.map(({ relativePath }) => relativePath)).toEqual(Array.from({ length: 8 }, (_, i) => `p${i}.jpg`))
    expect(runReport(app.context, run.id).pictures.filter(({ remarks }) => remarks !== null)).toHaveLength(8)
  })
})

describe('a link', () => {
  it('that came into a picture’s place is not read, and none below the delivery is written through', async () => {
    const app = testApplication()
    const outside = join(app.root, '..', 'outside')
    mkdirSync(outside)
    cpSync(photos[0] ?? '', join(outside, 'secret.jpg'))
    for (const folder of ['a', 'b']) {
      mkdirSync(join(app.intake, folder))
      lay(app, `${folder}/pot.jpg`, 0)
    }
    lay(app, 'c.jpg', 1)
    mkdirSync(app.delivery)
    symlinkSync(app.intake, join(app.delivery, 'a'))
    const loop = testLoop(app, {}, { mirrorFolders: true })
    const check = await preflight(app.context, loop)
    expect(check.pictures.map(({ relativePath, remark }) => [relativePath, remark])).toEqual([
      ['c.jpg', null],
      ['a/pot.jpg', expect.stringMatching(/is a link, or lies behind one/)],
      ['b/pot.jpg', null],
    ])
    const run = await startRun(app.context, loop)
    // After the start: a folder of the delivery, and a source, become links.
    symlinkSync(outside, join(app.delivery, 'b'))
    rmSync(join(app.intake, 'c.jpg'))
    symlinkSync(join(outside, 'secret.jpg'), join(app.intake, 'c.jpg'))
    launch(app)
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 0, failed: 3 })
    expect(readdirSync(outside)).toEqual(['secret.jpg'])
    expect(readdirSync(join(app.intake, 'a'))).toEqual(['pot.jpg'])
    expect(runResults(app.context, run.id).map(({ error }) => error)).toEqual([
      expect.stringMatching(/is a link to another place now/),
      expect.stringMatching(/is a link, or lies behind one/),
      expect.stringMatching(/is a link, or lies behind one/),
    ])
  })
  it('above a source that leads out of the roots is not followed', async () => {
    const app = testApplication()
    const outside = join(app.root, '..', 'outside')
    mkdirSync(join(app.intake, 'roll'))
    lay(app, 'roll/pot.jpg', 0)
    const run = await startRun(app.context, testLoop(app))
    renameSync(join(app.intake, 'roll'), outside)
    symlinkSync(outside, join(app.intake, 'roll'))
    launch(app)
    await runUntil(app, run.id, isDone)
    expect(runResults(app.context, run.id)[0]?.error).toMatch(/lies outside the folders/)
  })
})

describe('a picture in work', () => {
  it('is answered in the end, though the database was held for longer than anybody waits for it', async () => {
    const app = testApplication()
    fillIntake(app, 4)
    launch(app, { COPPER_LOOP_WORKERS: '2' })
    const run = await startRun(app.context, testLoop(app))
    await runUntil(app, run.id, ({ totals }) => totals.working > 0)
    const { $client } = app.context.db
    $client.exec('BEGIN IMMEDIATE')
    await pause(24_000)
    $client.exec('COMMIT')
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 4, failed: 0 })
    expect(listItems(app.context.db, run.id).every(({ crashes, interruptions }) => crashes + interruptions === 0)).toBe(true)
  })
  it('is neither lost nor doubled when the clock is set back and forth by an hour', async () => {
    const app = testApplication()
    fillIntake(app, 30)
    const clock = join(app.root, '..', 'clock')
    writeFileSync(clock, '0')
    const environment = { COPPER_LOOP_TROUBLE: 'allowed', COPPER_LOOP_TROUBLE_CLOCK: clock, COPPER_LOOP_WORKERS: '2' }
    const first = launch(app, environment)
    const run = await startRun(app.context, testLoop(app))
    const watch = new RunnerWatch()
    for (const [hours, reaches] of [
      [1, 4],
      [-1, 8],
      [1, 12],
    ] as const) {
      await runUntil(app, run.id, ({ totals }) => totals.done >= reaches)
      writeFileSync(clock, String(hours * 3600_000))
      await pause(2500)
      expect(watch.check(app.context).away).toBe(false)
    }
    first.kill('SIGKILL')
    await ended(first)
    writeFileSync(clock, '-3600000')
    launch(app, environment)
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 30, failed: 0 })
    expect(readdirSync(app.delivery)).toHaveLength(30)
  })
})

describe('a runner that can’t start its workers', () => {
  it('tries with ever longer pauses, logs, and says why the run waits', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    // The build without its kernels, beside the true one so that packages are found.
    const build = join('.build', `without-kernels-${process.pid}`)
    mkdirSync(build)
    let child: ReturnType<typeof spawn> | undefined
    try {
      for (const file of ['runner.mjs', 'worker.mjs', 'helper.mjs']) cpSync(join('.build', file), join(build, file))
      cpSync('.build/migrations', join(build, 'migrations'), { recursive: true })
      child = spawn(process.execPath, [join(build, 'runner.mjs')], {
        env: { ...app.environment, COPPER_LOOP_LOG: 'error', COPPER_LOOP_WORKERS: '2' },
        stdio: ['ignore', 'pipe', 'ignore'],
      })
      let log = ''
      child.stdout?.on('data', (bytes) => (log += bytes))
      await startRun(app.context, testLoop(app))
      const watch = new RunnerWatch()
      for (let tries = 0; watch.check(app.context).trouble === null && tries < 400; tries++) await pause(50)
      expect(watch.check(app.context)).toMatchObject({ away: false, trouble: expect.stringMatching(/can’t be started/) })
      await pause(8000)
      const starts = log.split('\n').filter((line) => line.includes('could not be started'))
      expect(starts.length).toBeGreaterThan(2)
      expect(starts.length).toBeLessThan(10)
    } finally {
      child?.kill('SIGKILL')
      rmSync(build, { recursive: true, force: true })
    }
  })
})

describe('what lies in a folder and is not taken', () => {
  it('is counted and named: in Take, in the preflight, in the report', async () => {
    const app = testApplication()
    lay(app, 'taken.jpg', 0)
    for (const name of ['a.PSD', 'b.psd', 'c.heic', 'd.gif', 'notes.txt']) writeFileSync(join(app.intake, name), 'x')
    symlinkSync(join(app.intake, 'taken.jpg'), join(app.intake, 'link.jpg'))
    writeFileSync(Buffer.concat([Buffer.from(`${app.intake}/caf`), Buffer.from([0xe9]), Buffer.from('.jpg')]), 'x')
    execFileSync('mkfifo', [join(app.intake, 'pipe.jpg')])
    lay(app, 'back\\slash.jpg', 1)
    const loop = testLoop(app)
    const check = await preflight(app.context, loop)
    expect(check.leftOut).toEqual({ folders: [], links: 1, unreadableNames: 1, notFiles: 1, kinds: { PSD: 2, HEIC: 1, GIF: 1 } })
    const told = check.problems.filter(({ area }) => area === 'intake').map(({ sentence }) => sentence)
    expect(told).toEqual([
      '4 files of kinds that are not read: PSD, HEIC, GIF.',
      '1 link to pictures or folders elsewhere is not followed.',
      "1 name can't be read as text (not UTF-8). Rename it.",
      "1 entry with a picture's name is no file.",
    ])
    expect(check.pictures.map(({ relativePath, targets }) => [relativePath, targets[0]?.name])).toEqual([
      ['back\\slash.jpg', 'back-slash.jpg'],
      ['taken.jpg', 'taken.jpg'],
    ])
    const run = await startRun(app.context, loop)
    expect(runReport(app.context, run.id).leftOut).toEqual(told)
    expect(runDetail(app.context, run.id).leftOut).toEqual(told)
  })

  it('says so of folders and files without permission, to whoever has none', () => {
    const app = testApplication()
    lay(app, 'seen.jpg', 0)
    lay(app, 'closed.jpg', 1)
    mkdirSync(join(app.intake, 'shut'))
    chmodSync(join(app.intake, 'closed.jpg'), 0)
    chmodSync(join(app.intake, 'shut'), 0)
    for (const path of [join(app.root, '..'), app.root, app.intake]) chmodSync(path, 0o755)
    const script = `
      import { scanIntake } from '@/files/scan'
      import { readFacts } from '@/files/facts'
      const folder = ${JSON.stringify(app.intake)}
      const { leftOut } = await scanIntake({ folder, subfolders: true })
      const error = await readFacts(folder + '/closed.jpg', 'closed.jpg').catch((e) => e.message)
      console.log(JSON.stringify({ folders: leftOut.folders.length, error }))`
    // Permissions bind nobody who is root: another user asks (nobody, 65534).
    const asked = join(app.root, '..', 'asked.mjs')
    execFileSync(
      'node_modules/.bin/esbuild',
      ['--bundle', '--platform=node', '--format=esm', '--packages=external', '--alias:@=./src', `--outfile=${asked}`, '--loader=ts'],
      { input: script, stdio: ['pipe', 'ignore', 'ignore'] },
    )
    cpSync(asked, join('.build', `asked-${process.pid}.mjs`))
    try {
      const as = process.getuid?.() === 0 ? { uid: 65534, gid: 65534 } : {}
      const told = JSON.parse(execFileSync(process.execPath, [join('.build', `asked-${process.pid}.mjs`)], { encoding: 'utf8', ...as }))
      expect(told).toEqual({ folders: 1, error: expect.stringMatching(/can't be read: permission denied/) })
    } finally {
      rmSync(join('.build', `asked-${process.pid}.mjs`))
      chmodSync(join(app.intake, 'shut'), 0o755)
    }
  })
})

describe('a long name', () => {
  it('leaves room for the file beside the picture', async () => {
    const app = testApplication()
    const name = `${'ø'.repeat(125)}.jpg`
    lay(app, name, 0)
    launch(app)
    const run = await startRun(app.context, testLoop(app, {}, { sidecar: true }))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 1, failed: 0 })
    const files = readdirSync(app.delivery)
    expect(files).toHaveLength(2)
    expect(files.every((file) => Buffer.byteLength(file) <= 255 && existsSync(join(app.delivery, file)))).toBe(true)
    expect(statSync(join(app.delivery, files[0] ?? '')).size).toBeGreaterThan(100)
  })
})
