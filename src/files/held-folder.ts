import { constants } from 'node:fs'
import { type FileHandle, lstat, mkdir, open, realpath } from 'node:fs/promises'
import { join, relative, sep } from 'node:path'
import { AppError } from '@/base/errors'
import { pathOfHandle, realPathOf } from './open-file'
import { isUnder } from './roots'

/*
 * A folder to place files in, held open. Everything in it is reached through the open folder, not by its path: it may be
 * renamed, moved or exchanged for a link meanwhile, and what is begun in it is still ended in it.
 */

const flags = constants.O_RDONLY | constants.O_DIRECTORY | constants.O_NOFOLLOW

export class HeldFolder {
  private constructor(
    private readonly handle: FileHandle,
    private readonly path: string,
  ) {}

  /** @throws the system's error, for a link too */
  static async open(path: string): Promise<HeldFolder> {
    return new HeldFolder(await open(path, flags), path)
  }

  /** Reaches an entry of this folder, wherever the folder is by now. */
  entry(name: string): string {
    return process.platform === 'linux' ? join(pathOfHandle(this.handle), name) : join(this.path, name)
  }

  realPath(): Promise<string> {
    return realPathOf(this.handle, this.path)
  }

  /** Makes names in it durable. Not every file system can: then there is nothing to do. */
  async flush(): Promise<void> {
    await this.handle.sync().catch(() => undefined)
  }

  async close(): Promise<void> {
    await this.handle.close()
  }
}

/**
 * Opens a folder below a delivery's, one level after the other, and makes those that are missing. `base` itself must be
 * there, so that a disk that went away is not replaced by an empty folder of its name; and no level may be a link, which
 * could lead anywhere, to the originals too.
 * @param base real path of the delivery's folder
 * @param makes false: levels that are missing are an error
 * @throws AppError `deliveryLeadsOut` for a link; the system's error otherwise
 */
export async function openFolderBelow(base: string, folder: string, makes = true): Promise<HeldFolder> {
  let held = await openLevel(base, base)
  try {
    if ((await held.realPath()) !== base) throw await whyElsewhere(base)
    for (const level of relative(base, folder).split(sep).filter(Boolean)) {
      const path = held.entry(level)
      if (makes)
        await mkdir(path).catch((error: NodeJS.ErrnoException) => {
          if (error.code !== 'EEXIST') throw error
        })
      const next = await openLevel(path, folder)
      await held.close()
      held = next
    }
    if (!isUnder(await held.realPath(), base)) throw await whyElsewhere(base)
    return held
  } catch (error) {
    await held.close()
    throw error
  }
}

/** Why a folder that was opened lies elsewhere: a link leads there; or it was moved meanwhile, and may come back. */
async function whyElsewhere(base: string): Promise<unknown> {
  const now = await realpath(base).catch((error: unknown) => error)
  if (typeof now !== 'string') return now
  return now === base
    ? new AppError('deliveryUnwritable', { path: base, reason: 'it was moved meanwhile' })
    : new AppError('deliveryLeadsOut', { path: base })
}

const openLevel = (path: string, named: string): Promise<HeldFolder> =>
  HeldFolder.open(path).catch(async (error: unknown) => {
    const isLink = (await lstat(path).catch(() => undefined))?.isSymbolicLink()
    throw isLink ? new AppError('deliveryLeadsOut', { path: named }, { cause: error }) : error
  })
