import { type ChildProcess, fork } from 'node:child_process'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { Redis } from 'ioredis'
import { defaultDelivery } from '@/jobs/delivery'
import { newStep, type Step } from '@/macros/step'
import { startRun } from '@/services/runs/start'
import { insertRun } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../tests/application'
import { RedisServer } from '../tests/redis-server'
import { isDone, runUntil } from '../tests/runner-process'
import { Station } from '../tests/stations/station-process'
import { startApplication } from '../tests/web-process'
import type { DispatchingAnswer, DispatchingWork } from './dispatching'
import type { Row } from './measure'
import type { WaitingAnswer, WaitingWork } from './waiting-stations'

/*
 * Stations: how much of a machine's pace is left when its workers are stations, and how many of them one main machine
 * keeps at work. Needs the built application, and Debian's redis-server.
 */

const steps: readonly Step[] = [newStep('exposure', 'a', { exposureEv: 0.2 }), newStep('local-contrast', 'b'), newStep('unsharp-mask', 'c')]
const pictures = 80
const patienceMs = 600_000

const listened = <T>(child: ChildProcess): Promise<T> => new Promise((resolve) => child.once('message', (said) => resolve(said as T)))

/** Seconds for a run of all pictures, everything warm and waiting; by two workers, or by two stations of one worker each. */
async function secondsFor(by: 'workers' | 'stations'): Promise<number> {
  const app = testApplication(steps)
  fillIntake(app, pictures)
  const server = await RedisServer.start()
  const environment = by === 'workers' ? { COPPER_LOOP_WORKERS: '2' } : { COPPER_LOOP_WORKERS: '0', COPPER_LOOP_REDIS: server.url }
  const application = await startApplication({ ...app.environment, ...environment })
  const stations = by === 'stations' ? ['one', 'two'].map((name) => new Station({ redis: server.url, roots: [app.root], name })) : []
  try {
    for (const station of stations) station.start()
    for (const station of stations) await station.says(/is at work/)
    const seconds = async (name: string, longEdgePx: number): Promise<number> => {
      const deliveries = [{ ...defaultDelivery(name, join(app.root, name)), longEdgePx }]
      const started = performance.now()
      await runUntil(app, (await startRun(app.context, testLoop(app, { deliveries }))).id, isDone, patienceMs)
      return (performance.now() - started) / 1000
    }
    await seconds('warm', 400)
    return await seconds('web', 1350)
  } finally {
    await Promise.all(stations.map((station) => station.kill()))
    await application.stop()
    await server.close()
  }
}

async function paceRow(): Promise<Row> {
  // In turns, the faster of two: a busy moment of the machine is nobody's.
  const [first, second] = [await secondsFor('workers'), await secondsFor('stations')]
  const [shared, own] = [Math.min(second, await secondsFor('stations')), Math.min(first, await secondsFor('workers'))]
  const share = own / shared
  return {
    what: `${pictures} pictures of 3.8 MP by two stations of one worker each on one machine, against the queue in the database with two workers`,
    measured: `${(share * 100).toFixed(0)} % (${shared.toFixed(1)} s against ${own.toFixed(1)} s)`,
    goal: '≥ 95 %',
    met: share >= 0.95,
  }
}

/** A run of pictures that are nowhere: nobody opens them. */
function layRun(app: TestApplication, count: number): string {
  const delivery = defaultDelivery('d', app.delivery)
  const macros = [{ macroId: 'macro', revision: 1, name: 'Quick', steps }]
  const items = Array.from({ length: count }, (_, i) => ({
    sourcePath: join(app.intake, `${i}.jpg`),
    relativePath: `${i}.jpg`,
    sizeBytes: 1,
    modifiedMs: 1,
    targets: [{ deliveryId: delivery.id, path: join(app.delivery, `${i}.jpg`) }],
  }))
  insertRun(app.context.db, { id: 'run', loopId: 'loop', loopName: 'Loop', macros, deliveries: [delivery] }, items, Date.now())
  return 'run'
}

const stationCount = 64
const coresEach = 8
/** A picture of 24 MP through ten steps takes four, through a resize one. */
const pictureMs = 2_000
const measuredMs = 30_000
/** What a folder's network carries: a gigabit and ten. */
const [slowMbps, fastMbps] = [110, 1100]
/** A picture of 24 MP comes in with 6 MB, is read once more to be compared, and goes out as a web picture of 0.6. */
const megabytesEach = 12.6

/** Many stations whose workers only wait: what the main machine and Redis cost, and where the limit is. */
async function manyRows(): Promise<Row[]> {
  const server = await RedisServer.start()
  const app = testApplication(steps)
  const runId = layRun(app, Math.ceil((stationCount * coresEach * (measuredMs + 40_000)) / pictureMs))
  const build = 'bench'
  const tsx = { execArgv: ['--import', 'tsx'] }
  const [dispatching, waiting] = [fork('bench/dispatching.ts', tsx), fork('bench/waiting-stations.ts', tsx)]
  const redis = new Redis(server.url)
  const redisCpuMs = async (): Promise<number> => {
    const info = await redis.info('cpu')
    const of = (name: string): number => Number(info.match(new RegExp(`${name}:([0-9.]+)`))?.[1] ?? 0)
    return (of('used_cpu_user') + of('used_cpu_sys')) * 1000
  }
  const dispatched = async (): Promise<DispatchingAnswer> => {
    const answer = listened<DispatchingAnswer>(dispatching)
    dispatching.send('how far')
    return answer
  }
  try {
    const ready = listened(dispatching)
    dispatching.send({ url: server.url, build, runId, environment: app.environment } satisfies DispatchingWork)
    await ready
    const answer = listened<WaitingAnswer>(waiting)
    waiting.send({ url: server.url, build, stations: stationCount, workers: coresEach, pictureMs, measuredMs } satisfies WaitingWork)
    await pause(12_000)
    const [before, redisBefore, at] = [await dispatched(), await redisCpuMs(), performance.now()]
    await pause(20_000)
    const [after, redisAfter, seconds] = [await dispatched(), await redisCpuMs(), (performance.now() - at) / 1000]
    const { busy, pictures: done } = await answer
    const count = after.done - before.done
    const [mainMs, redisMs] = [(after.cpuMs - before.cpuMs) / count, (redisAfter - redisBefore) / count]
    const ceiling = Math.floor(1000 / Math.max(mainMs, redisMs))
    const stationsAt = (perSecond: number): string => (perSecond / coresEach).toFixed(perSecond / coresEach < 10 ? 1 : 0)
    return [
      {
        what: `${stationCount} stations of ${coresEach} workers that only wait, ${pictureMs / 1000} s a picture: share of their time in which they have one`,
        measured: `${(busy * 100).toFixed(1)} % (${((done * 1000) / measuredMs).toFixed(0)} pictures/s)`,
        goal: '≥ 95 %',
        met: busy >= 0.95,
      },
      {
        what: 'what a picture costs the main machine (claiming, laying out, answer, database), and Redis, of one core each',
        measured: `${mainMs.toFixed(2)} ms; ${redisMs.toFixed(2)} ms (at ${(count / seconds).toFixed(0)} pictures/s)`,
        goal: '',
        met: true,
      },
      {
        what: `stations of ${coresEach} cores until a limit is reached, at one picture a second and core: the main machine; the folder at 1 Gbit/s; at 10 Gbit/s (${megabytesEach} MB a picture)`,
        measured: `${stationsAt(ceiling)} (${ceiling} pictures/s); ${stationsAt(slowMbps / megabytesEach)}; ${stationsAt(fastMbps / megabytesEach)}`,
        goal: '',
        met: true,
      },
    ]
  } finally {
    dispatching.kill('SIGKILL')
    waiting.kill('SIGKILL')
    redis.disconnect()
    await server.close()
  }
}

export const stationRows = async (): Promise<Row[]> => [await paceRow(), ...(await manyRows())]
