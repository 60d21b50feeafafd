import { chmodSync, cpSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import jpegJs from 'jpeg-js'
import { describe, expect, it } from 'vitest'
import { sha256, temporaryPrefix } from '@/files/placing'
import { newStep } from '@/macros/step'
import { reviseMacro } from '@/services/macros'
import { preflight } from '@/services/preflight/preflight'
import { stopRun } from '@/services/runs/control'
import { runReport } from '@/services/runs/report'
import { startRun } from '@/services/runs/start'
import { listRuns, runResults } from '@/services/runs/summary'
import { listItems } from '@/store/runs'
import { fillIntake, testApplication, testLoop, testMacroId } from './application'
import { mounted, unmount } from './mounts'
import { seeded } from './pictures'
import { ended, isDone, launchingRunners, pause, runUntil } from './runner-process'

/* The promises of a run, kept by the real runner process on real files. */

const launch = launchingRunners()

const hashesOf = (folder: string): Record<string, string> =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => [entry.name, sha256(readFileSync(join(entry.parentPath, entry.name)))]),
  )
const isWholeJpeg = (path: string): boolean => jpegJs.decode(readFileSync(path), { useTArray: true }).width > 0

describe('a run', () => {
  it('delivers every picture once, whole, and leaves the sources as they were', async () => {
    const app = testApplication()
    fillIntake(app, 6)
    const before = hashesOf(app.intake)
    launch(app)
    const run = await startRun(app.context, testLoop(app))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 6, failed: 0 })
    expect(readdirSync(app.delivery).sort()).toEqual(Object.keys(before).sort())
    expect(readdirSync(app.delivery).every((name) => isWholeJpeg(join(app.delivery, name)))).toBe(true)
    expect(hashesOf(app.intake)).toEqual(before)
    const report = runReport(app.context, run.id)
    expect(report.originals).toBe('6 source files, all unchanged')
    for (const row of report.pictures) {
      expect(row.sourceSha256).toBe(before[row.source.split('/').at(-1) ?? ''])
      expect(row.deliveredSha256).toBe(sha256(readFileSync(row.delivered ?? '')))
    }
  })

  it('gives each odd file its own error or its right result, and stops for none', async () => {
    const app = testApplication()
    cpSync('demo/odd-files', app.intake, { recursive: true })
    writeFileSync(join(app.intake, 'gone.jpg'), readFileSync('demo/odd-files/SHELF.JPG'))
    const run = await startRun(app.context, testLoop(app))
    rmSync(join(app.intake, 'gone.jpg'))
    launch(app)
    await runUntil(app, run.id, isDone)
    const states = Object.fromEntries(
      runResults(app.context, run.id).map((row) => [row.relativePath, row.error?.replace(row.sourcePath, 'It') ?? row.state]),
    )
    expect(states).toEqual({
      'SHELF.JPG': 'done',
      'alpha.png': 'done',
      'cmyk.jpg': 'done',
      'empty.jpg': 'It is empty (0 bytes). Copy it again from the camera or archive.',
      'glasur-ø-青磁.jpg': 'done',
      'gone.jpg': 'It is no longer there. It was moved or removed after the list was made.',
      'greyscale.jpg': 'done',
      'notes.jpg': 'It is not a picture that can be read. Its name says picture, its content does not.',
      'sixteen-bit.tif': 'done',
      'truncated.jpg': expect.stringContaining('is damaged and can’t be read to its end'.replace('’', "'")),
      'wide-gamut.jpg': 'done',
    })
  })

  it('writes its report beside the pictures where that is wanted, before it counts as done', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    writeFileSync(join(app.intake, 'broken.jpg'), 'no picture')
    launch(app)
    const run = await startRun(app.context, testLoop(app, {}, { report: true }))
    await runUntil(app, run.id, isDone)
    const told = JSON.parse(readFileSync(join(app.delivery, `run-${run.number}-report.json`), 'utf8'))
    expect(told).toMatchObject({ format: 'copper-loop/report', state: 'done', totals: { done: 2, failed: 1 } })
    expect(told.pictures.map(({ state }: { state: string }) => state).toSorted()).toEqual(['done', 'done', 'failed'])
    expect(
      readFileSync(join(app.delivery, `run-${run.number}-report.csv`), 'utf8')
        .trim()
        .split('\r\n'),
    ).toHaveLength(4)
  })

  it('replaces what its loop delivered, with the file beside it, and nothing that somebody else made or changed', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const wishes = { whenThere: 'replace', sidecar: true } as const
    const loop = testLoop(app, {}, wishes)
    launch(app)
    const first = await startRun(app.context, loop)
    await runUntil(app, first.id, isDone)
    const delivered = hashesOf(app.delivery)
    writeFileSync(join(app.delivery, 'picture-2.jpg'), 'retouched by hand')
    reviseMacro(app.context, testMacroId, [newStep('exposure', 'a', { exposureEv: -1 }), newStep('resize', 'b', { lengthPx: 200 })])
    const check = await preflight(app.context, loop)
    expect(check.problems.map(({ sentence }) => sentence)).toContain('For 2 pictures the file that this loop delivered before is replaced.')
    const again = await startRun(app.context, loop)
    expect((await runUntil(app, again.id, isDone)).totals).toMatchObject({ done: 2, failed: 1 })
    const now = hashesOf(app.delivery)
    expect(Object.keys(now)).toEqual(Object.keys(delivered))
    expect(readFileSync(join(app.delivery, 'picture-2.jpg'), 'utf8')).toBe('retouched by hand')
    for (const name of ['picture-1.jpg', 'picture-3.jpg', 'picture-1.jpg.steps.json']) expect(now[name]).not.toBe(delivered[name])
    expect(JSON.parse(readFileSync(join(app.delivery, 'picture-1.jpg.steps.json'), 'utf8')).sha256).toBe(now['picture-1.jpg'])
    expect(runResults(app.context, again.id).find(({ state }) => state === 'failed')?.error).toMatch(/is not what this loop delivered/)
    // Another loop into the same folder owns none of it.
    const other = await startRun(app.context, testLoop(app, {}, wishes))
    expect((await runUntil(app, other.id, isDone)).totals).toMatchObject({ done: 0, failed: 3 })
    expect(hashesOf(app.delivery)).toEqual(now)
  })

  it('is started by the runner itself once pictures have come into the folder', async () => {
    const app = testApplication()
    testLoop(app, { start: { when: 'arrivals' } })
    launch(app)
    await pause(3000)
    expect(listRuns(app.context).runs).toEqual([])
    fillIntake(app, 3)
    for (let tries = 0; listRuns(app.context).runs.length === 0 && tries < 400; tries++) await pause(50)
    const [run] = listRuns(app.context).runs
    expect((await runUntil(app, run?.id ?? '', isDone)).totals).toMatchObject({ done: 3 })
    expect(readdirSync(app.delivery)).toHaveLength(3)
  })

  it('gives the same bytes with one worker as with two', async () => {
    const outputs = []
    for (const workers of ['1', '2']) {
      const app = testApplication()
      fillIntake(app, 3, 'demo/pictures/kiln-and-yard/TLK27_0410.jpg')
      launch(app, { COPPER_LOOP_WORKERS: workers })
      const run = await startRun(app.context, testLoop(app))
      await runUntil(app, run.id, isDone)
      outputs.push(hashesOf(app.delivery))
    }
    expect(outputs[0]).toEqual(outputs[1])
  })

  it('stops when told to: what is in work is finished, the rest is left out', async () => {
    const app = testApplication()
    fillIntake(app, 12)
    launch(app, { COPPER_LOOP_WORKERS: '1' })
    const run = await startRun(app.context, testLoop(app))
    await runUntil(app, run.id, ({ totals }) => totals.done >= 2)
    stopRun(app.context, run.id)
    const { totals } = await runUntil(app, run.id, ({ totals, state }) => state === 'stopped' && totals.working === 0)
    expect(totals.done + totals.skipped).toBe(12)
    expect(totals.skipped).toBeGreaterThan(0)
    expect(readdirSync(app.delivery)).toHaveLength(totals.done)
  })
})

describe('when things go wrong', () => {
  it('a runner killed at many moments loses nothing, doubles nothing, and leaves no part of a file', async () => {
    const app = testApplication()
    fillIntake(app, 24)
    const run = await startRun(app.context, testLoop(app))
    const random = seeded(42)
    for (let kill = 0; kill < 6; kill++) {
      const child = launch(app)
      await runUntil(app, run.id, ({ totals }) => totals.working > 0)
      await pause(random() * 300)
      child.kill('SIGKILL')
      await ended(child)
    }
    expect(listItems(app.context.db, run.id).some((item) => item.state !== 'done')).toBe(true)
    launch(app)
    const { totals } = await runUntil(app, run.id, isDone)
    expect(totals).toMatchObject({ done: 24, failed: 0 })
    expect(listItems(app.context.db, run.id).some((item) => item.interruptions > 0)).toBe(true)
    const delivered = readdirSync(app.delivery)
    expect(delivered.filter((name) => name.startsWith(temporaryPrefix))).toEqual([])
    expect(delivered).toHaveLength(24)
    expect(delivered.every((name) => isWholeJpeg(join(app.delivery, name)))).toBe(true)
    expect(new Set(Object.values(hashesOf(app.delivery))).size).toBe(1)
  })

  it('a worker that dies, hangs or runs out of memory costs one picture, after one more try', async () => {
    const app = testApplication()
    fillIntake(app, 5)
    renameSync(join(app.intake, 'picture-2.jpg'), join(app.intake, 'crash-worker.jpg'))
    renameSync(join(app.intake, 'picture-3.jpg'), join(app.intake, 'hang-worker.jpg'))
    renameSync(join(app.intake, 'picture-4.jpg'), join(app.intake, 'exhaust-worker.jpg'))
    launch(app, { COPPER_LOOP_TROUBLE: 'allowed', COPPER_LOOP_PATIENCE_MS: '8000' })
    const run = await startRun(app.context, testLoop(app))
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 2, failed: 3 })
    const failed = runResults(app.context, run.id).filter((row) => row.state === 'failed')
    for (const row of failed) expect(row.error).toMatch(/stopped twice without an answer/)
  })

  it('a delivery folder that vanishes pauses the run with the reason, and the run goes on by itself once it is back', async () => {
    const app = testApplication()
    fillIntake(app, 10)
    launch(app, { COPPER_LOOP_WORKERS: '1' })
    const run = await startRun(app.context, testLoop(app))
    await runUntil(app, run.id, ({ totals }) => totals.done >= 1)
    renameSync(app.delivery, `${app.delivery}-away`)
    const paused = await runUntil(app, run.id, ({ state }) => state === 'paused')
    expect(paused.reason).toMatch(/Nothing can be written to .*Mend that; the run goes on by itself/)
    expect(paused.totals.failed).toBe(0)
    renameSync(`${app.delivery}-away`, app.delivery)
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 10, failed: 0 })
    expect(readdirSync(app.delivery)).toHaveLength(10)
  })

  it('a full disk pauses the run, and no file is half written', async () => {
    const app = testApplication()
    fillIntake(app, 6)
    mkdirSync(app.delivery)
    const isMounted = mounted('-t', 'tmpfs', '-o', 'size=300k', 'tmpfs', app.delivery)
    if (!isMounted) return
    try {
      const filler = join(app.delivery, 'filler')
      writeFileSync(filler, Buffer.alloc(200_000))
      launch(app, { COPPER_LOOP_WORKERS: '1' })
      const run = await startRun(app.context, testLoop(app, {}, { qualityPercent: 100 }))
      const paused = await runUntil(app, run.id, ({ state }) => state === 'paused')
      expect(paused.reason).toMatch(/disk that holds .* is full/)
      expect(readdirSync(app.delivery).filter((name) => name.startsWith(temporaryPrefix))).toEqual([])
      rmSync(filler)
      expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 6, failed: 0 })
    } finally {
      unmount(app.delivery)
    }
  })

  it('sources on a read-only folder run through', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    // Permissions do not bind an administrator, a read-only mount does.
    for (const name of readdirSync(app.intake)) chmodSync(join(app.intake, name), 0o444)
    const isMounted = mounted('--bind', app.intake, app.intake) && mounted('-o', 'remount,ro,bind', app.intake)
    try {
      if (isMounted) expect(() => writeFileSync(join(app.intake, 'x'), '')).toThrow(/EROFS/)
      launch(app)
      const run = await startRun(app.context, testLoop(app))
      expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 2, failed: 0 })
    } finally {
      if (isMounted) unmount(app.intake)
    }
  })

  it('another program that holds the database for a while delays the run and spoils nothing', async () => {
    const app = testApplication()
    fillIntake(app, 6)
    launch(app)
    const run = await startRun(app.context, testLoop(app))
    const { $client } = app.context.db
    $client.exec('BEGIN IMMEDIATE')
    await pause(1500)
    $client.exec('COMMIT')
    expect((await runUntil(app, run.id, isDone)).totals).toMatchObject({ done: 6, failed: 0 })
  })
})
