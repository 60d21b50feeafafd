import { fork } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { scanIntake } from '@/files/scan'
import { type Delivery, defaultDelivery } from '@/jobs/delivery'
import { newStep, type Step } from '@/macros/step'
import { preflight } from '@/services/preflight/preflight'
import { startRun } from '@/services/runs/start'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../tests/application'
import { ended, isDone, runUntil, startRunner } from '../tests/runner-process'
import type { BareWork } from './bare'
import type { Row } from './measure'
import { largePicture } from './pictures'

/*
 * The whole runner, with its database, hashes and reports, on the demo's pictures. Needs the built runner.
 */

const steps: readonly Step[] = [newStep('exposure', 'a', { exposureEv: 0.2 }), newStep('local-contrast', 'b'), newStep('unsharp-mask', 'c')]
const pictures = 200
const patienceMs = 600_000

/** Seconds from the start of a run to its end, the runner warm and waiting. */
async function secondsFor(app: TestApplication, workers: number, deliveries: readonly Delivery[]): Promise<number> {
  const runner = startRunner(app, { COPPER_LOOP_WORKERS: String(workers) })
  try {
    // A first run of a few pictures compiles the kernels in every worker.
    const warm = testLoop(app, { deliveries: [{ ...defaultDelivery('warm', join(app.root, 'warm')), longEdgePx: 400 }] })
    await runUntil(app, (await startRun(app.context, warm)).id, isDone, patienceMs)
    const started = performance.now()
    await runUntil(app, (await startRun(app.context, testLoop(app, { deliveries }))).id, isDone, patienceMs)
    return (performance.now() - started) / 1000
  } finally {
    runner.kill('SIGTERM')
    await ended(runner)
  }
}

const delivery = (app: TestApplication, name: string, longEdgePx: number | null): Delivery => ({
  ...defaultDelivery(name, join(app.root, name)),
  longEdgePx,
})

function filled(count: number): TestApplication {
  const app = testApplication(steps)
  fillIntake(app, count)
  return app
}

/** Large pictures of a web set: how many a run of 1,000 is told from. */
const webPictures = 40

/** A web set of pictures as cameras make them, by the runner on two workers, and by the native library alone on two cores. */
async function webSetRow(): Promise<Row> {
  const resize = newStep('resize', 'resize', { by: 'longEdge', lengthPx: 2048 })
  const app = testApplication([resize])
  fillIntake(app, webPictures, await largePicture())
  const ours = await secondsFor(app, 2, [delivery(app, 'web', null)])
  const children = [0, 1].map((half) => fork('bench/library-alone.ts', [app.intake, String(half)], { execArgv: ['--import', 'tsx'] }))
  const theirs = Math.max(
    ...((await Promise.all(children.map((child) => new Promise((resolve) => child.once('message', resolve))))) as number[]),
  )
  const aMinute = (seconds: number): string => ((60 * webPictures) / seconds).toFixed(0)
  return {
    what: `a web set of pictures of 24 MP, pictures a minute on two workers; the library alone on two cores (${webPictures} pictures)`,
    measured: `${aMinute(ours)}; ${aMinute(theirs)} (${(ours / theirs).toFixed(2)} × its time; 1,000 in ${((ours * 1000) / webPictures / 60).toFixed(0)} min)`,
    goal: '≤ 1.2 ×',
    met: ours <= 1.2 * theirs,
  }
}

/** Seconds for two processes at once, each doing all pictures of a folder by itself. */
async function secondsBare(app: TestApplication, work: Omit<BareWork, 'intake'>): Promise<number> {
  const children = [0, 1].map(() => fork('bench/bare.ts', { execArgv: ['--import', 'tsx'] }))
  const answers = (): Promise<unknown[]> => Promise.all(children.map((child) => new Promise((resolve) => child.once('message', resolve))))
  const warm = answers()
  for (const child of children) child.send({ intake: app.intake, ...work })
  await warm
  const done = answers()
  for (const child of children) child.send('go')
  return Math.max(...((await done) as number[]))
}

/** 100,000 names in 100 folders: scanning reads folders and sizes, not pictures. */
async function scanRow(): Promise<Row> {
  const app = testApplication()
  const [folders, perFolder] = [100, 1000]
  for (let f = 0; f < folders; f++) {
    const folder = join(app.intake, String(f))
    mkdirSync(folder)
    for (let i = 0; i < perFolder; i++) writeFileSync(join(folder, `${i}.jpg`), '')
  }
  const started = performance.now()
  const { found } = await scanIntake({ folder: app.intake, subfolders: true })
  const perSecond = found.length / ((performance.now() - started) / 1000)
  return {
    what: `scan of ${found.length.toLocaleString('en')} files`,
    measured: `${Math.round(perSecond).toLocaleString('en')} files/s`,
    goal: '≥ 20,000 files/s',
    met: perSecond >= 20_000,
  }
}

async function preflightRow(): Promise<Row> {
  const [count, whole] = [2000, 10_000]
  const app = filled(count)
  const loop = testLoop(app)
  const started = performance.now()
  await preflight(app.context, loop)
  const cold = (performance.now() - started) / 1000
  const again = performance.now()
  await preflight(app.context, loop)
  const warm = (performance.now() - again) / 1000
  const scaled = (warm * whole) / count
  return {
    what: `preflight of ${count.toLocaleString('en')} pictures, scaled to 10,000: facts known / first time`,
    measured: `${scaled.toFixed(1)} s / ${((cold * whole) / count).toFixed(1)} s`,
    goal: '≤ 10 s once known',
    met: scaled <= 10,
  }
}

export async function throughputRows(): Promise<Row[]> {
  const few = filled(pictures / 4)
  const one = await secondsFor(few, 1, [delivery(few, 'web', 1350)])
  const many = filled(pictures)
  const two = await secondsFor(many, 2, [delivery(many, 'web', 1350)])
  const sets = filled(pictures / 4)
  const three = await secondsFor(sets, 1, [delivery(sets, 'web', 1350), delivery(sets, 'preview', 900), delivery(sets, 'small', 400)])
  const bare = await secondsBare(filled(pictures / 4), { steps, delivery: delivery(few, 'bare', 1350) })
  const share = (bare * 2) / two
  return [
    {
      what: `${pictures} pictures of 3.8 MP through the runner on two workers, against two bare cores at the same work`,
      measured: `${(share * 100).toFixed(0)} % (${two.toFixed(1)} s, ${(pictures / two).toFixed(1)} pictures/s)`,
      goal: '≥ 95 %',
      met: share >= 0.95,
    },
    {
      what: 'three deliveries from one pass, against one',
      measured: `${(three / one).toFixed(2)} ×`,
      goal: '≤ 1.3 ×',
      met: three / one <= 1.3,
    },
    await webSetRow(),
    await scanRow(),
    await preflightRow(),
  ]
}
