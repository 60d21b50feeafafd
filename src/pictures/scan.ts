import type { Dirent } from 'node:fs'
import { readdir, stat } from 'node:fs/promises'
import { basename, dirname, extname, join, relative } from 'node:path'
import { isLike } from '@/core/condition'
import { AppError, reasonOf } from '@/core/errors'
import { inNaturalOrder } from '@/core/natural-order'

export interface Intake {
  readonly folder: string
  readonly subfolders: boolean
  /** Names of subfolders that are passed over, with `*` and `?`. */
  readonly without?: readonly string[]
}

/** A file that its name calls a picture. Whether it is one shows when it is read. */
export interface FoundPicture {
  readonly path: string
  /** The intake folder it was found under. */
  readonly intake: string
  /** Relative to the intake folder, with `/`. */
  readonly relativePath: string
  readonly sizeBytes: number
  readonly modifiedMs: number
}

export const pictureExtensions: ReadonlySet<string> = new Set(['.jpg', '.jpeg', '.png', '.tif', '.tiff', '.webp', '.avif'])

/** Whether a subfolder of this name is passed over. */
export const isPassedOver = (name: string, without: readonly string[]): boolean => without.some((pattern) => isLike(name, pattern))

/** Files looked at between two tellings of how far it is: few enough that nothing else waits long. */
const batch = 500

/** How far a scan has come, told as it goes. */
export interface ScanProgress {
  readonly pictures: number
  readonly folders: number
  readonly bytes: number
}

/**
 * All pictures of an intake, folder by folder: those of a folder in natural order, then its subfolders in theirs. Hidden files and folders, and links, are passed over.
 * `onBatch` may throw to end it.
 * @throws AppError `folderMissing`, `notAFolder`, `folderUnreadable` for the intake folder itself
 */
export async function scanIntake(
  { folder, subfolders, without = [] }: Intake,
  onBatch?: (progress: ScanProgress) => void,
): Promise<FoundPicture[]> {
  const found: FoundPicture[] = []
  let [folders, bytes] = [0, 0]
  await walk(folder, true)
  return found

  async function walk(directory: string, isIntake: boolean): Promise<void> {
    const entries = inNaturalOrder(await list(directory, isIntake), ({ name }) => name)
    const files = entries.filter((entry) => entry.isFile() && pictureExtensions.has(extname(entry.name).toLowerCase()))
    if (files.length > 0) folders++
    for (let start = 0; start < files.length; start += batch) {
      const some = await Promise.all(files.slice(start, start + batch).map((entry) => factsOf(join(directory, entry.name))))
      for (const picture of some.flat()) {
        found.push(picture)
        bytes += picture.sizeBytes
      }
      onBatch?.({ pictures: found.length, folders, bytes })
    }
    if (!subfolders) return
    for (const entry of entries)
      if (entry.isDirectory() && !isPassedOver(entry.name, without)) await walk(join(directory, entry.name), false)
  }

  async function factsOf(path: string): Promise<FoundPicture[]> {
    const known = await stat(path).catch(() => undefined)
    if (!known) return []
    return [
      {
        path,
        intake: folder,
        relativePath: relative(folder, path).split('\\').join('/'),
        sizeBytes: known.size,
        modifiedMs: Math.floor(known.mtimeMs),
      },
    ]
  }
}

async function list(path: string, isIntake: boolean): Promise<Dirent[]> {
  try {
    return (await readdir(path, { withFileTypes: true })).filter((entry) => !entry.name.startsWith('.'))
  } catch (error) {
    if (!isIntake) return []
    throw folderError(error, path)
  }
}

export function folderError(error: unknown, path: string): AppError {
  const code = (error as NodeJS.ErrnoException).code
  if (code === 'ENOENT') return new AppError('folderMissing', { path })
  if (code === 'ENOTDIR') return new AppError('notAFolder', { path })
  return new AppError('folderUnreadable', { path, reason: reasonOf(error) })
}

/** One file by its path. @throws AppError `fileMissing`, `notAPicture` */
export async function foundPicture(path: string): Promise<FoundPicture> {
  const known = await stat(path).catch(() => undefined)
  if (!known?.isFile()) throw new AppError('fileMissing', { path })
  if (!pictureExtensions.has(extname(path).toLowerCase())) throw new AppError('notAPicture', { path })
  return { path, intake: dirname(path), relativePath: basename(path), sizeBytes: known.size, modifiedMs: Math.floor(known.mtimeMs) }
}
