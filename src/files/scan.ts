import type { Dirent } from 'node:fs'
import { readdir, stat } from 'node:fs/promises'
import { dirname, extname, join, relative, sep } from 'node:path'
import { AppError, reasonOf, systemCode } from '@/base/errors'
import { inNaturalOrder } from '@/base/natural-order'
import { isLike } from '@/base/wildcards'
import { type LeftOut, unreadKinds } from '@/jobs/left-out'
import { pictureExtensions } from '@/jobs/picture-names'

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

/** What an intake holds: its pictures, and what lies there and is not taken. */
export interface Scanned {
  readonly found: FoundPicture[]
  readonly leftOut: LeftOut
}

/**
 * All pictures of an intake, folder by folder: those of a folder in natural order, then its subfolders in theirs. Hidden
 * files and folders are passed over; what else is not taken is told.
 * `onBatch` may throw to end it.
 * @throws AppError `folderMissing`, `notAFolder`, `folderUnreadable` for the intake folder itself
 */
export async function scanIntake(intake: Intake, onBatch?: (progress: ScanProgress) => void): Promise<Scanned> {
  const scan = new Scan(intake, onBatch)
  await scan.walk(intake.folder, true)
  return { found: scan.found, leftOut: scan.leftOut }
}

class Scan {
  readonly found: FoundPicture[] = []
  private readonly unreadable: string[] = []
  private readonly kinds: Record<string, number> = {}
  private readonly counts = { links: 0, unreadableNames: 0, notFiles: 0 }
  private folders = 0
  private bytes = 0

  constructor(
    private readonly intake: Intake,
    private readonly onBatch: ((progress: ScanProgress) => void) | undefined,
  ) {}

  get leftOut(): LeftOut {
    return { ...this.counts, folders: this.unreadable, kinds: this.kinds }
  }

  async walk(directory: string, isIntake: boolean): Promise<void> {
    const entries = inNaturalOrder(await this.list(directory, isIntake), ({ name }) => name)
    const files = entries.filter((entry) => entry.isFile() && pictureExtensions.has(extname(entry.name).toLowerCase()))
    if (files.length > 0) this.folders++
    for (let start = 0; start < files.length; start += batch) {
      const some = await Promise.all(files.slice(start, start + batch).map((entry) => this.factsOf(join(directory, entry.name))))
      for (const picture of some.flat()) {
        this.found.push(picture)
        this.bytes += picture.sizeBytes
      }
      this.onBatch?.({ pictures: this.found.length, folders: this.folders, bytes: this.bytes })
    }
    for (const entry of entries) await this.noteOther(directory, entry)
    const { subfolders, without = [] } = this.intake
    if (!subfolders) return
    for (const entry of entries)
      if (entry.isDirectory() && !isPassedOver(entry.name, without)) await this.walk(join(directory, entry.name), false)
  }

  /** Counts an entry that is not taken though somebody might have meant it. */
  private async noteOther(directory: string, entry: Dirent): Promise<void> {
    if (entry.isDirectory()) return
    const suffix = extname(entry.name).slice(1).toLowerCase()
    const isPicture = pictureExtensions.has(`.${suffix}`)
    if (entry.isSymbolicLink()) {
      if (isPicture || unreadKinds.has(suffix) || (this.intake.subfolders && (await isFolder(join(directory, entry.name)))))
        this.counts.links++
    } else if (entry.isFile()) {
      if (unreadKinds.has(suffix)) this.kinds[suffix.toUpperCase()] = (this.kinds[suffix.toUpperCase()] ?? 0) + 1
    } else if (isPicture) this.counts.notFiles++
  }

  private async factsOf(path: string): Promise<FoundPicture[]> {
    const known = await stat(path).catch(() => undefined)
    if (!known) {
      // Bytes that are no UTF-8 come as this sign, and then the name leads nowhere.
      if (path.includes('\uFFFD')) this.counts.unreadableNames++
      return []
    }
    const relativePath = relative(this.intake.folder, path).split(sep).join('/')
    return [{ path, intake: this.intake.folder, relativePath, sizeBytes: known.size, modifiedMs: Math.floor(known.mtimeMs) }]
  }

  private async list(path: string, isIntake: boolean): Promise<Dirent[]> {
    try {
      return (await readdir(path, { withFileTypes: true })).filter((entry) => !entry.name.startsWith('.'))
    } catch (error) {
      if (isIntake) throw folderError(error, path)
      if (path.includes('\uFFFD')) this.counts.unreadableNames++
      else this.unreadable.push(path)
      return []
    }
  }
}

const isFolder = async (path: string): Promise<boolean> => (await stat(path).catch(() => undefined))?.isDirectory() ?? false

export function folderError(error: unknown, path: string): AppError {
  const code = systemCode(error)
  if (code === 'ENOENT') return new AppError('folderMissing', { path })
  if (code === 'ENOTDIR') return new AppError('notAFolder', { path })
  return new AppError('folderUnreadable', { path, reason: reasonOf(error) })
}

/**
 * One file by its path. @param folders those that its relative path may be told from: the innermost one; else its own
 * @throws AppError `fileMissing`, `notAPicture`
 */
export async function foundPicture(path: string, folders: readonly string[] = []): Promise<FoundPicture> {
  const known = await stat(path).catch(() => undefined)
  if (!known?.isFile()) throw new AppError('fileMissing', { path })
  if (!pictureExtensions.has(extname(path).toLowerCase())) throw new AppError('notAPicture', { path })
  const around = folders.filter((folder) => path.startsWith(folder + sep)).toSorted((a, b) => b.length - a.length)
  const intake = around[0] ?? dirname(path)
  const relativePath = relative(intake, path).split(sep).join('/')
  return { path, intake, relativePath, sizeBytes: known.size, modifiedMs: Math.floor(known.mtimeMs) }
}
