import { mkdir, readdir, rm, stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { isAbsolute, join, resolve } from 'node:path'
import dayjs from 'dayjs'
import { AppError } from '@/core/errors'
import { writeSetting } from '@/db/settings'
import { folderError } from '@/pictures/scan'
import { type Context, reopenRoots, rootsAreFixed } from './context'

export interface SettingsView {
  readonly roots: readonly { readonly path: string; readonly isThere: boolean }[]
  /** The environment names the roots: they can't be changed here. */
  readonly rootsAreFixed: boolean
  readonly dataFolder: string
  readonly cacheBytes: number
  readonly workers: number
  readonly backups: readonly { readonly name: string; readonly bytes: number }[]
}

const cacheFolder = (dataFolder: string): string => join(dataFolder, 'cache')
const backupFolder = (dataFolder: string): string => join(dataFolder, 'backups')

export async function settingsView({ roots, dataFolder }: Context): Promise<SettingsView> {
  const isThere = async (path: string): Promise<boolean> => (await stat(path).catch(() => undefined))?.isDirectory() ?? false
  return {
    roots: await Promise.all(roots.paths.map(async (path) => ({ path, isThere: await isThere(path) }))),
    rootsAreFixed: rootsAreFixed(),
    dataFolder,
    cacheBytes: await bytesIn(cacheFolder(dataFolder)),
    workers: Number(process.env.COPPER_LOOP_WORKERS) || availableParallelism(),
    backups: await backupsIn(dataFolder),
  }
}

async function bytesIn(folder: string): Promise<number> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => [])
  const files = entries.filter((entry) => entry.isFile())
  const sizes = await Promise.all(
    files.map(async (entry) => (await stat(join(entry.parentPath, entry.name)).catch(() => undefined))?.size ?? 0),
  )
  return sizes.reduce((sum, size) => sum + size, 0)
}

async function backupsIn(dataFolder: string): Promise<SettingsView['backups']> {
  const folder = backupFolder(dataFolder)
  const names = (await readdir(folder).catch(() => []))
    .filter((name) => name.endsWith('.sqlite'))
    .sort()
    .reverse()
  return Promise.all(names.map(async (name) => ({ name, bytes: (await stat(join(folder, name))).size })))
}

/**
 * Names the folders that pictures may be read from and written to. Each must be there.
 * @throws AppError `badRequest`, `folderMissing`, `notAFolder`
 */
export async function nameRoots(context: Context, paths: readonly string[]): Promise<SettingsView> {
  if (rootsAreFixed()) throw new AppError('badRequest', { reason: 'the folders are named by COPPER_LOOP_ROOTS' })
  const wanted = [...new Set(paths.map((path) => path.trim()).filter(Boolean))]
  for (const path of wanted) {
    if (!isAbsolute(path)) throw new AppError('badRequest', { reason: `${path} is not a whole path: it must begin with /` })
    if (resolve(path) === '/')
      throw new AppError('badRequest', { reason: 'the whole computer is too much: name the folders with pictures' })
    const known = await stat(path).catch((error) => {
      throw folderError(error, path)
    })
    if (!known.isDirectory()) throw new AppError('notAFolder', { path })
  }
  writeSetting(
    context.db,
    'roots',
    wanted.map((path) => resolve(path)),
  )
  return settingsView(reopenRoots(context))
}

/** Small pictures are made again as they are needed. */
export async function clearCache(context: Context): Promise<SettingsView> {
  await rm(cacheFolder(context.dataFolder), { recursive: true, force: true })
  return settingsView(context)
}

/** A consistent copy of the database beside it, by SQLite's own backup, while everything goes on. */
export async function makeBackup(context: Context): Promise<SettingsView> {
  const folder = backupFolder(context.dataFolder)
  await mkdir(folder, { recursive: true })
  await context.db.$client.backup(join(folder, `copper-loop-${dayjs().format('YYYY-MM-DD-HHmmss')}.sqlite`))
  return settingsView(context)
}
