import { rm, stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { isAbsolute, resolve } from 'node:path'
import { AppError } from '@/base/errors'
import { shownRedis } from '@/base/redis-address'
import { folderError } from '@/files/scan'
import type { MarkKind } from '@/pixels/traits'
import { readSetting, writeSetting } from '@/store/settings'
import { type Backup, listBackups } from './backups'
import { cacheBytes, cacheFolder, cacheMbOf, trimCache } from './cache'
import { type Context, reopenRoots, rootsAreFixed } from './context'
import { type InboxState, inboxState } from './inbox'

export interface SettingsView {
  readonly roots: readonly { readonly path: string; readonly isThere: boolean }[]
  /** The environment names the roots: they can't be changed here. */
  readonly rootsAreFixed: boolean
  readonly dataFolder: string
  readonly cacheBytes: number
  /** The most that is kept, in MB. */
  readonly cacheMb: number
  readonly workers: number
  /** The environment names the number of workers: it can't be changed here. */
  readonly workersAreFixed: boolean
  readonly backups: readonly Backup[]
  readonly inbox: InboxState
  /** The program that is started when a run is over; null for none. Named where Copper Loop was started. */
  readonly programAtEnd: string | null
  /** The Redis through which stations are given work, without its password; null where no other machine takes part. */
  readonly redis: string | null
}

/** Pictures worked on at a time, as the environment says; none at all only where stations work in its place. */
function workersOfEnvironment({ COPPER_LOOP_WORKERS: named, COPPER_LOOP_REDIS: redis }: NodeJS.ProcessEnv): number | undefined {
  if (named?.trim() === '0' && redis) return 0
  return Number(named) || undefined
}

/** Pictures worked on at a time: as the environment says, else Settings, else one for each core. */
export const workersOf = ({ db }: Pick<Context, 'db'>): number =>
  workersOfEnvironment(process.env) ?? (readSetting<number>(db, 'workers') || availableParallelism())

/** Whether each of the roots is there now: asked of the disk. */
export const rootsThere = ({ roots }: Context): Promise<boolean[]> =>
  Promise.all(roots.paths.map(async (path) => (await stat(path).catch(() => undefined))?.isDirectory() ?? false))

/** @param there whether each of the roots is there, where somebody else has asked the disk */
export async function settingsView(context: Context, there?: readonly boolean[]): Promise<SettingsView> {
  const { roots, dataFolder } = context
  const isThere = there ?? (await rootsThere(context))
  return {
    roots: roots.paths.map((path, i) => ({ path, isThere: isThere[i] ?? false })),
    rootsAreFixed: rootsAreFixed(),
    dataFolder,
    cacheBytes: await cacheBytes(context),
    cacheMb: cacheMbOf(context),
    workers: workersOf(context),
    workersAreFixed: workersOfEnvironment(process.env) !== undefined,
    backups: await listBackups(context),
    inbox: await inboxState(context),
    programAtEnd: process.env.COPPER_LOOP_AT_END?.trim() || null,
    redis: process.env.COPPER_LOOP_REDIS ? shownRedis(process.env.COPPER_LOOP_REDIS) : null,
  }
}

/**
 * Folders that may be named as roots: whole paths, each of them there. Looks at the disk.
 * @throws AppError `badRequest`, `folderMissing`, `notAFolder`
 */
export async function checkRoots(paths: readonly string[]): Promise<string[]> {
  const wanted = [...new Set(paths.map((path) => path.trim()).filter(Boolean))]
  for (const path of wanted) {
    if (!isAbsolute(path)) throw new AppError('badRequest', { reason: `${path} is not a whole path: it must begin with /` })
    if (resolve(/* turbopackIgnore: true */ path) === '/')
      throw new AppError('badRequest', { reason: 'the whole computer is too much: name the folders with pictures' })
    const known = await stat(path).catch((error) => {
      throw folderError(error, path)
    })
    if (!known.isDirectory()) throw new AppError('notAFolder', { path })
  }
  return wanted.map((path) => resolve(/* turbopackIgnore: true */ path))
}

/** Names the folders that pictures may be read from and written to, as `checkRoots` let them through. @throws AppError `badRequest` */
export function nameRoots(context: Context, paths: readonly string[]): Context {
  if (rootsAreFixed()) throw new AppError('badRequest', { reason: 'the folders are named by COPPER_LOOP_ROOTS' })
  writeSetting(context.db, 'roots', paths)
  return reopenRoots(context)
}

/** Small pictures are made again as they are needed. */
export const clearCache = ({ dataFolder }: Context): Promise<void> => rm(cacheFolder(dataFolder), { recursive: true, force: true })

/** What of the machine is used: pictures worked on at a time, and megabytes of small pictures kept. */
export async function setMachine(context: Context, { workers, cacheMb }: { workers?: number; cacheMb?: number }): Promise<void> {
  if (workers !== undefined) writeSetting(context.db, 'workers', workers)
  if (cacheMb !== undefined) {
    writeSetting(context.db, 'cacheMb', cacheMb)
    await trimCache(context)
  }
}

/** Kinds of standing out that nobody wants to be told of. */
export const silentMarks = ({ db }: Pick<Context, 'db'>): readonly MarkKind[] => readSetting<readonly MarkKind[]>(db, 'silentMarks') ?? []

export function setSilentMarks({ db }: Pick<Context, 'db'>, silent: readonly MarkKind[]): readonly MarkKind[] {
  writeSetting(db, 'silentMarks', silent)
  return silent
}
