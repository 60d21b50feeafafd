import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { gatherFor, gatherOf } from '@/jobs/gather'
import { startRun } from '@/services/runs/start'
import { runSummary } from '@/services/runs/summary'
import { listItems } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from './application'
import { ended, isDone, launchingRunners, pause, runUntil } from './runner-process'

/* Pages as the built runner makes them, whatever happens to it meanwhile. */

const launch = launchingRunners()
const pictures = 12

it('a runner killed again and again while it gathers ends with one whole file, and nothing beside it', async () => {
  const app = testApplication()
  fillIntake(app, pictures)
  const loop = testLoop(app, { name: 'Set' }, { gather: gatherFor('set'), longEdgePx: 1600 })
  const { id } = await startRun(app.context, loop)
  let runner = launch(app)
  await runUntil(app, id, ({ totals }) => totals.done === pictures)
  // The pages are being made now, or are just made.
  for (const ms of [0, 40, 90, 160, 260]) {
    if (isDone(runSummary(app.context, id))) break
    await pause(ms)
    runner.kill('SIGKILL')
    await ended(runner)
    runner = launch(app)
    await pause(900)
  }
  const run = await runUntil(app, id, isDone)
  expect(readdirSync(app.delivery)).toEqual(['Set.pdf'])
  const path = join(app.delivery, 'Set.pdf')
  expect(run.gathered).toMatchObject([
    { path, pages: pictures, problem: null, hash: createHash('sha256').update(readFileSync(path)).digest('hex') },
  ])
  expect(execFileSync('pdfinfo', [path], { encoding: 'utf8' })).toMatch(/Pages:\s+12/)
})

it('the bytes of a PDF are those that were delivered; a sheet goes out in each delivery that wants one', async () => {
  const app = testApplication()
  fillIntake(app, 3)
  const gather = gatherFor('set')
  const base = testLoop(app, { name: 'Two' }, { gather, longEdgePx: 500 })
  const [first] = base.deliveries
  if (!first) throw new Error('There is no delivery')
  const sheet = { ...first, id: 'sheet', folder: join(app.root, 'sheets'), gather: gatherOf({ format: 'jpeg', dpi: 100 }) }
  const plain = { ...first, id: 'plain', folder: join(app.root, 'plain'), gather: null }
  const { id } = await startRun(app.context, { ...base, deliveries: [first, sheet, plain] })
  launch(app)
  await runUntil(app, id, isDone)
  expect(runSummary(app.context, id).gathered.map(({ problem }) => problem)).toEqual([null, null])
  const out = join(app.root, 'out')
  execFileSync('pdfimages', ['-all', join(app.delivery, 'Two.pdf'), out])
  const hashes = (folder: string, start = ''): string[] =>
    readdirSync(folder)
      .filter((name) => name.startsWith(start) && name.endsWith('.jpg'))
      .sort()
      .map((name) =>
        createHash('sha256')
          .update(readFileSync(join(folder, name)))
          .digest('hex'),
      )
  expect(hashes(app.root, 'out')).toEqual(hashes(plain.folder))
  expect(hashes(app.root, 'out')).toHaveLength(3)
  expect(readdirSync(sheet.folder)).toEqual(['Two-1.jpg'])
  expect(listItems(app.context.db, id).every(({ sourceUnchanged }) => sourceUnchanged)).toBe(true)
  rmSync(out, { force: true })
})
