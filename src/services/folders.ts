import { readdir } from 'node:fs/promises'
import { basename, extname, join } from 'node:path'
import { inNaturalOrder } from '@/base/natural-order'
import { folderError, pictureExtensions } from '@/files/scan'
import type { Context } from './context'

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
}

/** Subfolders and pictures of a folder under the roots; without a path, the roots themselves. */
export async function listFolder({ roots }: Context, path: string | undefined): Promise<FolderListing> {
  if (!path) return { path: '', parent: null, folders: await Promise.all(roots.paths.map(describeFolder)), pictures: [] }
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
  }
}

const isPictureName = (name: string): boolean => pictureExtensions.has(extname(name).toLowerCase())

async function describeFolder(path: string): Promise<FolderEntry> {
  const entries = await readdir(path, { withFileTypes: true }).catch(() => [])
  return {
    path,
    name: basename(path),
    pictures: entries.filter((entry) => entry.isFile() && isPictureName(entry.name)).length,
    folders: entries.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.')).length,
  }
}
