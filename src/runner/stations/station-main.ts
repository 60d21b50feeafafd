import { mkdirSync, statfsSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { fileURLToPath } from 'node:url'
import { shownRedis } from '@/base/redis-address'
import { log } from '@/processes/log'
import { WorkerPool } from '../pool'
import { Runner } from '../runner'
import { buildIn } from './build'
import { problemOfBuild, problemOfClock, problemOfRoots, problemOfSpace, rootsHere } from './checks'
import { SharedFolders } from './folders'
import { StationKeptFiles } from './kept-files'
import { type MainSign, readMainSign, type StationSign } from './messages'
import { Pace } from './pace'
import { connect, mainKey, SilenceWatch, stationsKey, timeOf, within } from './redis'
import { defaultLeaseMs, RedisQueue } from './redis-queue'
import { RootLooker } from './root-looker'
import { stationId } from './station-id'
import { foldersGone, StationQueue } from './station-queue'
import { usage, wishesOf } from './wishes'

/*
 * A station's process: takes pictures from the main machine over Redis and works on them in folders that both share. It
 * has no database and serves no page. Whatever does not fit is said in a sentence, and the process ends.
 */

/** Exit codes (sysexits): the command can't be understood; the setup does not fit, and starting again would not help; it may fit in a while. */
const [badUsage, misfit, notNow] = [64, 78, 75]
/** Ten minutes: a hundred megapixels through a long macro take seconds. */
const defaultPatienceMs = 600_000
const signMs = 2_000
/** What is in hand when the station is to end is finished; longer than this it is put back. */
const drainMs = 20_000

const build = dirname(fileURLToPath(import.meta.url))
const environment = process.env

function refuse(problem: string, code = misfit): never {
  console.error(`Copper Loop station: ${problem}`)
  process.exit(code)
}

const asked = wishesOf(process.argv.slice(2), environment)
if (asked === 'help') {
  console.log(usage)
  process.exit(0)
}
const wishes = 'problem' in asked ? refuse(asked.problem, badUsage) : asked
const dataFolder = resolve(environment.COPPER_LOOP_DATA ?? 'data/station')
mkdirSync(dataFolder, { recursive: true })
const folders = new SharedFolders(wishes.folders)
const own = buildIn(build)
const looker = new RootLooker(join(build, 'root-signs.mjs'))
const kept = new StationKeptFiles(join(dataFolder, 'files'))
const startedAt = Date.now()

let redisProblem: string | undefined
const redis = connect({ url: wishes.url, certificates: environment.COPPER_LOOP_REDIS_CA }, (reason) => {
  if (reason !== redisProblem) log.warn({ reason }, 'Redis does not answer')
  redisProblem = reason
})
redis.on('ready', () => {
  redisProblem = undefined
})
const refusedBy = /NOAUTH|WRONGPASS|NOPERM/

const id = stationId(dataFolder)
const { bavail, bsize } = statfsSync(dataFolder)
const askAt = (main: MainSign): void => kept.askAt({ addresses: wishes.main ? [wishes.main] : main.addresses, secret: main.secret })

let main = await firstSign()
await begin(main)

/** Waits for Redis and the main machine: a machine that starts before them is in order. */
async function firstSign(): Promise<MainSign> {
  let told = ''
  for (;;) {
    if (redisProblem && refusedBy.test(redisProblem))
      refuse(`Redis at ${shownRedis(wishes.url)} lets nobody in with that name and password.`)
    const sign = await within(signMs, redis.get(mainKey)).catch(() => undefined)
    const found = readMainSign(sign ?? null)
    if (found) return found
    const waits =
      sign === undefined
        ? `Redis at ${shownRedis(wishes.url)} does not answer${redisProblem ? ` (${redisProblem})` : ''}. It is waited for.`
        : 'The main machine is not there yet; it is waited for. It must be started with COPPER_LOOP_REDIS.'
    if (waits !== told) console.log(waits)
    told = waits
    await pause(500)
  }
}

async function begin(sign: MainSign): Promise<void> {
  folders.learn(sign.roots)
  const misfits = problemOfBuild(sign, { ...own, build: own.id }) ?? problemOfRoots(sign.roots, folders)
  if (misfits) refuse(misfits)
  const passes = problemOfClock(sign, Date.now()) ?? problemOfSpace(bavail * bsize)
  if (passes) refuse(passes, notNow)
  const there = await looker.bear(rootsHere(sign.roots, folders))
  const wrong = sign.roots.find((_, i) => !there[i])
  if (wrong)
    refuse(
      `${folders.hereOf(wrong)} is not the folder that the main machine calls ${wrong.path}, or it is not mounted here. Perhaps the two sides of --root are exchanged: it is /HERE=/THERE.`,
      notNow,
    )
  askAt(sign)
  const silent = await kept.problem()
  if (silent)
    refuse(
      `The main machine does not give its files kept with macros (${silent}). Start it with COPPER_LOOP_HOST so that this machine can reach it, or name its address with --main.`,
      notNow,
    )
}

/** Why nothing is taken now: what was found last, and what came up in the meantime. */
let found: string | null = null
let passing: { readonly trouble: string; readonly until: number } | undefined
const passingMs = 5_000
const trouble = (): string | null => {
  if (passing && performance.now() > passing.until) passing = undefined
  return found ?? passing?.trouble ?? null
}
const comeUp = (said: string): void => {
  passing = { trouble: said, until: performance.now() + passingMs }
  log.warn(said)
}
const foldersThere = async (): Promise<boolean> => (await looker.bear(rootsHere(main.roots, folders))).every(Boolean)

const pace = new Pace()
const silence = new SilenceWatch(redis)
const shared = new RedisQueue({
  redis,
  build: own.id,
  leaseMs: Number(environment.COPPER_LOOP_LEASE_MS) || defaultLeaseMs,
  onProblem: (problem) => log.warn({ reason: String(problem) }, 'the shared queue'),
  onOtherBuild: () => comeUp('The main machine’s build has just changed.'),
})
const queue = new StationQueue(shared, { folders, kept, trouble, foldersThere, onTrouble: comeUp })
const pool = new WorkerPool(
  {
    modulePath: join(build, 'worker.mjs'),
    environment: { ...environment, COPPER_LOOP_REDIS: '', COPPER_LOOP_KEPT_FILES: kept.folder },
    maxHeapMb: 512,
    size: wishes.workers,
    patienceMs: Number(environment.COPPER_LOOP_PATIENCE_MS) || defaultPatienceMs,
  },
  {
    onFree: () => runner?.fill(),
    onFailedStart: (failures, nextTryMs) => log.error({ failures, nextTryMs }, 'a worker could not be started'),
  },
)
const runner = new Runner(queue, pool, { log, roots: () => folders.here })
runner.start()
console.log(`Station ${wishes.name} is at work: ${wishes.workers} pictures at a time, from ${shownRedis(wishes.url)}.`)

/** What the station says of itself, and whether it still fits its main machine. */
async function giveSign(): Promise<void> {
  try {
    const { busy, done } = queue.counts
    const said: StationSign = {
      id,
      name: wishes.name,
      cores: availableParallelism(),
      workers: wishes.workers,
      busy,
      build: own.id,
      version: own.version,
      picturesPerMinute: pace.perMinute(done, busy > 0),
      done,
      startedAt,
      trouble: trouble() ?? pool.trouble,
      at: await within(signMs, timeOf(redis)),
    }
    if (!ending) await within(signMs, redis.hset(stationsKey, id, JSON.stringify(said)))
    main = readMainSign(await within(signMs, redis.get(mainKey))) ?? main
    askAt(main)
    folders.learn(main.roots)
    found =
      problemOfBuild(main, { ...own, build: own.id }) ??
      problemOfRoots(main.roots, folders) ??
      ((await foldersThere()) ? null : foldersGone)
    silence.answered()
  } catch (error) {
    silence.failed(error)
    log.warn({ reason: String(error) }, 'no sign of life could be given')
  }
}
const signs = setInterval(giveSign, signMs)
void giveSign()

let ending = false
async function end(): Promise<void> {
  if (ending) return
  ending = true
  clearInterval(signs)
  console.log('The station ends: what it has in hand is finished first.')
  await Promise.race([runner.stop(), pause(drainMs).then(() => queue.putBackAll())])
  await within(signMs, redis.hdel(stationsKey, id)).catch(() => undefined)
  pool.close()
  looker.close()
  redis.disconnect()
  process.exit(0)
}
process.on('SIGTERM', end)
process.on('SIGINT', end)
