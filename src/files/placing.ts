import { createHash } from 'node:crypto'
import { constants } from 'node:fs'
import { link, open, readdir, rename, unlink } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import { AppError, reasonOf, systemCode } from '@/base/errors'
import { type HeldFolder, openFolderBelow } from './held-folder'

/** Every unfinished file's name begins like this; a dot keeps it out of scans and folder views. */
export const temporaryPrefix = '.copper-loop-'
const temporarySuffix = '.part'

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** One try to make one result of a run: two results of a picture may be written at once, and so may two tries of a picture whose first one was given up. */
export interface PlacingTry {
  readonly runId: string
  readonly resultId: number
  /** Rises with each try. */
  readonly token: number
}

const resultKey = ({ runId, resultId }: PlacingTry): string => `${runId}-${resultId}`

/** The name under which a try writes, beside the file's own place, so that the rename stays on one disk. */
export const temporaryName = (attempt: PlacingTry): string => `${temporaryPrefix}${resultKey(attempt)}-${attempt.token}${temporarySuffix}`

export type Placement = 'written' | 'alreadyThere'

export interface PlaceOptions {
  /** Real path of the delivery's folder; subfolders below it are made. */
  readonly base: string
  readonly target: string
  readonly attempt: PlacingTry
  /** SHA-256 of the file that this one may come in the place of. */
  readonly replaces?: string | null
}

/**
 * Puts bytes at `target`, whole or not at all, and never over another file: written under a temporary name, flushed,
 * then linked to its name, which fails if the name is taken. A file with the very same content counts as this one,
 * placed by an earlier try that was cut off before it could say so. A file whose content is that of `replaces`, which
 * the same loop delivered, is replaced in one rename.
 * @throws AppError `deliveryExists`, `diskFull`, `deliveryUnwritable`, `deliveryRefused`, `deliveryLeadsOut`
 */
export const placeFile = (bytes: Uint8Array, options: PlaceOptions): Promise<Placement> =>
  place({ write: (path) => writeFlushed(path, bytes), hash: async () => sha256(bytes) }, options)

/**
 * The same for what is too large to be held: `write` makes the file of the name that it is given, which is not there yet.
 * @returns the file's hash (SHA-256) besides
 * @throws as `placeFile`
 */
export async function placeWritten(
  write: (path: string) => Promise<void>,
  options: PlaceOptions,
): Promise<{ readonly placement: Placement; readonly hash: string }> {
  let hash = ''
  const content: Content = {
    async write(path) {
      await write(path)
      const file = await open(path, constants.O_RDWR | constants.O_NOFOLLOW)
      await file.sync().finally(() => file.close())
      hash = (await hashOfEntry(path)) ?? ''
    },
    hash: async () => hash,
  }
  return { placement: await place(content, options), hash }
}

/** What is placed: how it is written under a name, and its SHA-256, known from then on. */
interface Content {
  write(path: string): Promise<void>
  hash(): Promise<string>
}

async function place(content: Content, { base, target, attempt, replaces = null }: PlaceOptions): Promise<Placement> {
  let folder: HeldFolder | undefined
  try {
    folder = await openFolderBelow(base, dirname(target))
    const placing = new Placing(folder, target, attempt)
    try {
      return await placing.place(content, replaces)
    } finally {
      await placing.clear()
    }
  } catch (error) {
    throw deliveryError(error, target)
  } finally {
    await folder?.close()
  }
}

class Placing {
  private readonly temporary: string
  private readonly entry: string

  constructor(
    private readonly folder: HeldFolder,
    private readonly target: string,
    private readonly attempt: PlacingTry,
  ) {
    this.temporary = folder.entry(temporaryName(attempt))
    this.entry = folder.entry(basename(target))
  }

  async place(content: Content, replaces: string | null): Promise<Placement> {
    await this.clearEarlier()
    await content.write(this.temporary)
    const placement = await this.linkOrReplace(await content.hash(), replaces)
    await this.folder.flush()
    return placement
  }

  /** Takes the temporary name away. Where that fails, the sweep at the run's end does it. */
  async clear(): Promise<void> {
    await unlink(this.temporary).catch(() => undefined)
  }

  /** What earlier tries of the same result left when they were cut off. Unlinked, never written into: it may be another name of the delivered file. */
  private async clearEarlier(): Promise<void> {
    for (let token = this.attempt.token; token > 0; token--)
      await unlink(this.folder.entry(temporaryName({ ...this.attempt, token }))).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'ENOENT') throw error
      })
  }

  private async linkOrReplace(own: string, replaces: string | null): Promise<Placement> {
    try {
      await link(this.temporary, this.entry)
      return 'written'
    } catch (error) {
      const code = systemCode(error)
      if (code === 'EEXIST') return this.overExisting(own, replaces)
      // Some network and removable disks have no links: there the name is reserved first, then taken over.
      if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'ENOSYS') throw error
      return this.renameWithoutReplacing(own, replaces)
    }
  }

  private async overExisting(own: string, replaces: string | null): Promise<Placement> {
    const hash = await hashOfEntry(this.entry)
    if (hash === own) return 'alreadyThere'
    if (hash === undefined || !(hash === replaces || hash === sha256(this.reservation())))
      throw new AppError('deliveryExists', { path: this.target })
    await rename(this.temporary, this.entry)
    return 'written'
  }

  /** What stands at a name that was reserved, until the file takes its place: so a try that is cut off in between is known again. */
  private reservation(): Buffer {
    return Buffer.from(`Copper Loop writes a picture here: ${resultKey(this.attempt)}\n`)
  }

  private async renameWithoutReplacing(own: string, replaces: string | null): Promise<Placement> {
    try {
      const reserved = await open(this.entry, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY, 0o644)
      await reserved.writeFile(this.reservation()).finally(() => reserved.close())
    } catch (error) {
      if (systemCode(error) !== 'EEXIST') throw error
      return this.overExisting(own, replaces)
    }
    await rename(this.temporary, this.entry).catch(async (error) => {
      await unlink(this.entry).catch(() => undefined)
      throw error
    })
    return 'written'
  }
}

/** The SHA-256 of a regular file, read as it streams by; undefined for anything else of that name. */
async function hashOfEntry(path: string): Promise<string | undefined> {
  const handle = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK).catch(() => undefined)
  if (!handle) return undefined
  try {
    if (!(await handle.stat()).isFile()) return undefined
    const hash = createHash('sha256')
    for await (const part of handle.createReadStream({ autoClose: false })) hash.update(part as Uint8Array)
    return hash.digest('hex')
  } finally {
    await handle.close()
  }
}

async function writeFlushed(path: string, bytes: Uint8Array): Promise<void> {
  const file = await open(path, 'wx', 0o644)
  try {
    await file.writeFile(bytes)
    await file.sync()
  } finally {
    await file.close()
  }
}

/** Faults of the place, which a person can mend: the same file may be tried again afterwards. */
const mendable = new Set(['EACCES', 'EPERM', 'EROFS', 'ENOENT', 'ENOTDIR', 'EIO', 'ESTALE'])

function deliveryError(error: unknown, path: string): AppError {
  if (error instanceof AppError) return error
  const code = systemCode(error) ?? ''
  if (code === 'ENOSPC' || code === 'EDQUOT') return new AppError('diskFull', { path }, { cause: error })
  return new AppError(mendable.has(code) ? 'deliveryUnwritable' : 'deliveryRefused', { path, reason: reasonOf(error) }, { cause: error })
}

/**
 * Takes away what tries of a run left in folders below a delivery's: of one result, or of all. Folders that are not
 * there, or are links, are passed over.
 */
export async function clearUnfinished(base: string, folders: Iterable<string>, runId: string, resultId?: number): Promise<void> {
  const start = `${temporaryPrefix}${resultId === undefined ? `${runId}-` : `${resultKey({ runId, resultId, token: 0 })}-`}`
  for (const path of folders) {
    const folder = await openExisting(base, path)
    if (!folder) continue
    try {
      const names = await readdir(folder.entry('.'))
      for (const name of names)
        if (name.startsWith(start) && name.endsWith(temporarySuffix)) await unlink(folder.entry(name)).catch(() => undefined)
    } finally {
      await folder.close()
    }
  }
}

async function openExisting(base: string, path: string): Promise<HeldFolder | undefined> {
  try {
    return await openFolderBelow(base, path, false)
  } catch {
    return undefined
  }
}
