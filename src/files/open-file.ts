import { constants } from 'node:fs'
import { type FileHandle, open, readlink, realpath } from 'node:fs/promises'
import { AppError, reasonOf, systemCode } from '@/base/errors'
import type { Roots } from './roots'

/*
 * The one way in which a person's file is opened: for reading, without following a link in its last place, without
 * waiting (a named pipe would wait for a writer), and only if it is a regular file that really lies under the roots.
 */

const flags = constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK

/** A path of an open file that can't be exchanged meanwhile, for readers that want a path (Linux, proc(5)). */
export const pathOfHandle = ({ fd }: FileHandle): string => `/proc/self/fd/${fd}`

/** Where an open file or folder really lies. */
export const realPathOf = (handle: FileHandle, path: string): Promise<string> => readlink(pathOfHandle(handle)).catch(() => realpath(path))

/**
 * Opens a file for reading.
 * @param roots where the file must really lie; leave it out for files of the application's own
 * @throws AppError `fileMissing`, `fileIsLink`, `notAFile`, `fileUnreadable`, `outsideRoots`
 */
export async function openRegular(path: string, roots?: Roots): Promise<FileHandle> {
  const handle = await open(path, flags).catch((error: unknown) => {
    throw openError(error, path)
  })
  try {
    if (!(await handle.stat()).isFile()) throw new AppError('notAFile', { path })
    if (roots && !roots.holds(await realPathOf(handle, path))) throw new AppError('outsideRoots', { path })
    return handle
  } catch (error) {
    await handle.close()
    throw error
  }
}

function openError(error: unknown, path: string): AppError {
  const code = systemCode(error)
  if (code === 'ENOENT' || code === 'ENOTDIR') return new AppError('fileMissing', { path })
  if (code === 'ELOOP') return new AppError('fileIsLink', { path })
  // A socket, or a pipe without a writer.
  if (code === 'ENXIO') return new AppError('notAFile', { path })
  return new AppError('fileUnreadable', { path, reason: reasonOf(error) })
}

/**
 * All bytes of a file.
 * @throws AppError as `openRegular`, `fileEmpty`, `fileTooLarge`
 */
export async function readRegular(path: string, roots?: Roots): Promise<Buffer> {
  const handle = await openRegular(path, roots)
  try {
    const { size } = await handle.stat()
    if (size === 0) throw new AppError('fileEmpty', { path })
    if (size > maxFileBytes) throw new AppError('fileTooLarge', { path, limit: maxFileBytes >> 20 })
    return await handle.readFile()
  } catch (error) {
    throw error instanceof AppError ? error : new AppError('fileUnreadable', { path, reason: reasonOf(error) })
  } finally {
    await handle.close()
  }
}

/** Larger than any picture of the most pixels that are taken, at 16 bits and without compression. */
const maxFileBytes = 2047 << 20
