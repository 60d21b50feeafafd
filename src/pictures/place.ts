import { createHash } from 'node:crypto'
import { constants } from 'node:fs'
import { link, mkdir, open, readFile, rename, rm, unlink } from 'node:fs/promises'
import { dirname, join, relative, sep } from 'node:path'
import { AppError, reasonOf } from '@/core/errors'

/** Every unfinished file's name begins like this; a dot keeps it out of scans and folder views. */
export const temporaryPrefix = '.copper-loop-'

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** What tells the unfinished file of one result of a run from all others: two of a picture may be written at once. */
export const temporaryKey = (runId: string, resultId: number): string => `${runId}-${resultId}`

/** Where a result is written before it gets its name: beside its place, so that the rename stays on one disk. */
export const temporaryPath = (target: string, key: string): string => join(dirname(target), `${temporaryPrefix}${key}.part`)

export type Placement = 'written' | 'alreadyThere'

/**
 * Puts bytes at `target`, whole or not at all, and never over another file: written under a temporary name, flushed,
 * then linked to its name, which fails if the name is taken. A file with the very same content counts as this one,
 * placed by an earlier attempt that was cut off before it could say so. A file whose content is that of `replaces`, which
 * the same loop delivered, is replaced in one rename. Subfolders are made below `base`; `base`
 * itself must be there, so that a disk that went away is not replaced by an empty folder of its name.
 * @throws AppError `deliveryExists`, `diskFull`, `deliveryUnwritable`, `deliveryRefused`
 */
export async function placeFile(
  bytes: Uint8Array,
  base: string,
  target: string,
  key: string,
  replaces: string | null = null,
): Promise<Placement> {
  const temporary = temporaryPath(target, key)
  try {
    await makeFoldersBelow(base, dirname(target))
    await writeFlushed(temporary, bytes)
    const placement = await linkOrReplace(temporary, target, bytes, replaces)
    await flushFolder(dirname(target))
    return placement
  } catch (error) {
    throw deliveryError(error, target)
  } finally {
    await rm(temporary, { force: true }).catch(() => undefined)
  }
}

/**
 * One level after the other, so that the making itself fails where `base` is gone: looking first and then making all
 * levels would put an empty folder where a disk went away in between.
 */
async function makeFoldersBelow(base: string, folder: string): Promise<void> {
  let made = base
  for (const level of relative(base, folder).split(sep).filter(Boolean)) {
    made = join(made, level)
    await mkdir(made).catch((error) => {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    })
  }
}

async function writeFlushed(path: string, bytes: Uint8Array): Promise<void> {
  const file = await open(path, 'w', 0o644)
  try {
    await file.writeFile(bytes)
    await file.sync()
  } finally {
    await file.close()
  }
}

async function linkOrReplace(temporary: string, target: string, bytes: Uint8Array, replaces: string | null): Promise<Placement> {
  try {
    await link(temporary, target)
    return 'written'
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    if (code === 'EEXIST') {
      const there = sha256(await readFile(target))
      if (there === sha256(bytes)) return 'alreadyThere'
      if (there === replaces) {
        await rename(temporary, target)
        return 'written'
      }
      throw new AppError('deliveryExists', { path: target })
    }
    // Some network and removable disks have no links: there the name is reserved first, then taken over.
    if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'ENOSYS') throw error
    return renameWithoutReplacing(temporary, target)
  }
}

async function renameWithoutReplacing(temporary: string, target: string): Promise<Placement> {
  const reserved = await open(target, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY).catch((error) => {
    throw (error as NodeJS.ErrnoException).code === 'EEXIST' ? new AppError('deliveryExists', { path: target }) : error
  })
  await reserved.close()
  await rename(temporary, target).catch(async (error) => {
    await unlink(target).catch(() => undefined)
    throw error
  })
  return 'written'
}

/** Makes the new name itself durable. Not every file system lets a folder be opened: then there is nothing to do. */
async function flushFolder(path: string): Promise<void> {
  const folder = await open(path, 'r').catch(() => undefined)
  await folder?.sync().catch(() => undefined)
  await folder?.close()
}

/** Faults of the place, which a person can mend: the same file may be tried again afterwards. */
const mendable = new Set(['EACCES', 'EPERM', 'EROFS', 'ENOENT', 'ENOTDIR', 'EIO', 'ESTALE'])

function deliveryError(error: unknown, path: string): AppError {
  if (error instanceof AppError) return error
  const code = (error as NodeJS.ErrnoException).code ?? ''
  if (code === 'ENOSPC' || code === 'EDQUOT') return new AppError('diskFull', { path }, { cause: error })
  return new AppError(mendable.has(code) ? 'deliveryUnwritable' : 'deliveryRefused', { path, reason: reasonOf(error) }, { cause: error })
}
