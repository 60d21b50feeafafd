import { networkInterfaces } from 'node:os'
import { join } from 'node:path'
import { reasonOf } from '@/base/errors'
import { lruCached } from '@/base/lru-cache'
import { problemOfRedis } from '@/base/redis-address'
import { isUnder } from '@/files/roots'
import { isAlive } from '@/processes/alive'
import { log } from '@/processes/log'
import { type Context, reopenRoots } from '@/services/context'
import { stationSetting } from '@/services/stations'
import { hasSourcesOutside, listRunners } from '@/store/queue'
import type { StoredRun } from '@/store/runs'
import { noteStations, stationsName } from '@/store/stations'
import { DatabaseClaims, type DatabaseClaimsOptions } from '../database-claims'
import { buildIn } from './build'
import { Dispatcher } from './dispatcher'
import type { SharedRoot } from './messages'
import { connect, type RedisSettings } from './redis'
import { RootLooker } from './root-looker'

/** How often the shared folders' signs are looked at. */
const rootsMs = 10_000
const defaultPort = 4180
/** Runs whose judgement is kept: there are seldom more in line. */
const maxJudged = 200

export interface DispatchingOptions {
  readonly settings: RedisSettings
  /** Where the built files lie. */
  readonly buildFolder: string
  readonly environment: NodeJS.ProcessEnv
  readonly claims: DatabaseClaimsOptions
  readonly onAnswers: () => void
}

export interface Dispatching {
  /** Whether stations can work on a run. */
  shares(run: StoredRun): boolean
  stop(): Promise<void>
}

/** Gives pictures to stations as long as this process lives. @returns nothing where another process of this application does so already */
export function startDispatching(
  context: Context,
  { settings, buildFolder, environment, claims, onAnswers }: DispatchingOptions,
): Dispatching | undefined {
  const problem = problemOfRedis(settings.url)
  if (problem) {
    log.error({ problem }, 'no stations: COPPER_LOOP_REDIS can’t be used')
    return undefined
  }
  const other = listRunners(context.db).find(({ id }) => id === stationsName)
  if (other && other.processId !== process.pid && isAlive(other.processId) && Date.now() - other.beatAt < 10_000) return undefined

  const { application, secret } = stationSetting(context)
  const looker = new RootLooker(join(buildFolder, 'root-signs.mjs'))
  const addresses = addressesOf(environment)
  let roots: readonly SharedRoot[] = []
  /** What was found of runs with these roots: a run's list does not change. */
  const judged = new Map<string, boolean>()
  const shares = (run: StoredRun): boolean => lruCached(judged, run.id, maxJudged, () => isShared(context, run, roots))
  const look = async (): Promise<void> => {
    const found = await looker.roots(reopenRoots(context).roots.paths)
    if (JSON.stringify(found) === JSON.stringify(roots)) return
    roots = found
    judged.clear()
  }
  const redis = connect(settings, (reason) => log.warn({ reason }, 'Redis does not answer'))
  const claimed = new DatabaseClaims(context.db, stationsName, { ...claims, suits: shares })
  const dispatcher = new Dispatcher(claimed, {
    redis,
    application,
    build: buildIn(buildFolder),
    sign: () => ({ roots, addresses, secret }),
    leaseMs: Number(environment.COPPER_LOOP_LEASE_MS) || undefined,
    onStations: (stations) =>
      noteStations(
        context.db,
        stations.map(({ build: _, at, ...state }) => ({ ...state, heardAt: at })),
      ),
    onAnswers,
    onProblem: (error) => log.warn({ reason: reasonOf(error) }, 'stations'),
  })
  const guardedLook = (): Promise<void> =>
    look().catch((error) => log.warn({ reason: reasonOf(error) }, 'the shared folders were not looked at'))
  const looks = setInterval(guardedLook, rootsMs)
  const started = guardedLook().then(() => dispatcher.start())
  return {
    shares,
    async stop() {
      clearInterval(looks)
      await started
      await dispatcher.stop()
      looker.close()
      redis.disconnect()
    },
  }
}

/** Whether a run's pictures, and all that is made of them, lie in folders that stations have too; dropped pictures and those of pages do not. */
export function isShared({ db }: Pick<Context, 'db'>, run: Pick<StoredRun, 'id' | 'deliveries'>, roots: readonly SharedRoot[]): boolean {
  const folders = roots.map(({ real }) => real)
  const isWritten = run.deliveries.every(({ folder }) => folders.some((root) => isUnder(folder, root)))
  return isWritten && !hasSourcesOutside(db, run.id, folders)
}

/** Where this machine's pages can be reached: by itself alone, unless it was asked to listen wider. */
export function addressesOf(environment: NodeJS.ProcessEnv): string[] {
  const host = environment.COPPER_LOOP_HOST || '127.0.0.1'
  const port = Number(environment.COPPER_LOOP_PORT) || defaultPort
  if (host !== '0.0.0.0' && host !== '::') return [`http://${host.includes(':') ? `[${host}]` : host}:${port}`]
  const own = Object.values(networkInterfaces()).flatMap((addresses) => addresses ?? [])
  const wide = own.filter(({ internal, family }) => !internal && family === 'IPv4').map(({ address }) => `http://${address}:${port}`)
  return [...wide, `http://127.0.0.1:${port}`]
}
