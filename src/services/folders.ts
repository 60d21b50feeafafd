import { readdir } from 'node:fs/promises'
import { homedir } from 'node:os'
import { basename, dirname, extname, isAbsolute, join, resolve } from 'node:path'
import { AppError } from '@/base/errors'
import { inNaturalOrder } from '@/base/natural-order'
import { folderError } from '@/files/scan'
import { isPictureName } from '@/jobs/picture-names'
import { type Context, rootsAreFixed } from './context'

export interface FolderEntry {
  readonly path: string
  readonly name: string
  readonly pictures: number
  readonly folders: number
}

export interface FolderListing {
  /** Empty at the list of roots. */
  readonly path: string
  /** Null at a root: one up is the list of roots. */
  readonly parent: string | null
  readonly folders: readonly FolderEntry[]
  readonly pictures: readonly { readonly path: string; readonly name: string }[]
  /** Files of kinds that are not read, the most first. */
  readonly others: readonly { readonly kind: string; readonly count: number }[]
}

/** Subfolders and pictures of a folder under the roots; without a path, the roots themselves. */
export async function listFolder({ roots }: Context, path: string | undefined): Promise<FolderListing> {
  if (!path) return { path: '', parent: null, folders: await Promise.all(roots.paths.map(describeFolder)), pictures: [], others: [] }
  const folder = roots.check(path)
  const entries = await readdir(folder, { withFileTypes: true }).catch((error) => {
    throw folderError(error, path)
  })
  const visible = inNaturalOrder(
    entries.filter((entry) => !entry.name.startsWith('.')),
    ({ name }) => name,
  )
  const isRoot = roots.paths.includes(folder)
  return {
    path: folder,
    parent: isRoot ? null : join(folder, '..'),
    folders: await Promise.all(visible.filter((entry) => entry.isDirectory()).map((entry) => describeFolder(join(folder, entry.name)))),
    pictures: visible
      .filter((entry) => entry.isFile() && isPictureName(entry.name))
      .map((entry) => ({ path: join(folder, entry.name), name: entry.name })),
    others: kindsOf(visible.filter((entry) => entry.isFile() && !isPictureName(entry.name)).map(({ name }) => name)),
  }
}

/** How many of each kind, by their endings. */
function kindsOf(names: readonly string[]): FolderListing['others'] {
  const counts = new Map<string, number>()
  for (const name of names) {
    const kind = extname(name).slice(1).toUpperCase() || 'without an ending'
    counts.set(kind, (counts.get(kind) ?? 0) + 1)
  }
  return [...counts].map(([kind, count]) => ({ kind, count })).toSorted((a, b) => b.count - a.count)
}

/** Where people keep folders with pictures, where there is such a place. */
const commonPlaces = (): string[] => [homedir(), '/media', '/mnt', '/']

/**
 * Names of folders anywhere on this machine, for whoever names those that may be used; of files only how many are pictures. Not where the
 * environment names them. Without a path, places to begin at.
 * @throws AppError `outsideRoots`, `folderMissing`, `folderUnreadable`
 */
export async function listPlaces(path: string | undefined, areFixed = rootsAreFixed()): Promise<FolderListing> {
  if (areFixed || (path !== undefined && (!isAbsolute(path) || path.includes('\0'))))
    throw new AppError('outsideRoots', { path: path ?? '/' })
  const listing = { parent: null, pictures: [], others: [] }
  if (!path) {
    const there = await Promise.all(
      [...new Set(commonPlaces())].map((place) =>
        readdir(place).then(
          () => [place],
          () => [],
        ),
      ),
    )
    return { ...listing, path: '', folders: await Promise.all(there.flat().map(describeFolder)) }
  }
  const folder = resolve(/* turbopackIgnore: true */ path)
  const entries = await readdir(folder, { withFileTypes: true }).catch((error) => {
    throw folderError(error, path)
  })
  const folders = inNaturalOrder(
    entries.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.')),
    ({ name }) => name,
  )
  const parent = folder === '/' ? null : dirname(folder)
  return { ...listing, path: folder, parent, folders: await Promise.all(folders.map(({ name }) => describeFolder(join(folder, name)))) }
}

async function describeFolder(path: string): Promise<FolderEntry> {
  const entries = await readdir(path, { withFileTypes: true }).catch(() => [])
  return {
    path,
    name: basename(path),
    pictures: entries.filter((entry) => entry.isFile() && isPictureName(entry.name)).length,
    folders: entries.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.')).length,
  }
}
