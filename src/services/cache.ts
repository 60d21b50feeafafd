import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { readSetting } from '@/store/settings'
import type { Context } from './context'

/** Megabytes (10⁶) of small pictures that are kept, unless Settings say otherwise. */
const usualCacheMb = 1000
/** A full cache is emptied to this share, so that it is not full again at once. */
const emptiedTo = 0.8
/** Share of the limit that may be added before the whole cache is measured again. */
const unseenShare = 0.05

export const cacheFolder = (dataFolder: string): string => join(dataFolder, 'cache')
export const cacheMbOf = ({ db }: Pick<Context, 'db'>): number => readSetting<number>(db, 'cacheMb') ?? usualCacheMb

interface CachedFile {
  readonly path: string
  readonly bytes: number
  readonly usedMs: number
}

async function cachedFiles(dataFolder: string): Promise<CachedFile[]> {
  const entries = await readdir(cacheFolder(dataFolder), { withFileTypes: true, recursive: true }).catch(() => [])
  const files = entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name))
  const known = files.map(async (path) => {
    const facts = await stat(path).catch(() => undefined)
    return facts ? [{ path, bytes: facts.size, usedMs: Math.max(facts.atimeMs, facts.mtimeMs) }] : []
  })
  return (await Promise.all(known)).flat()
}

export const cacheBytes = async ({ dataFolder }: Pick<Context, 'dataFolder'>): Promise<number> =>
  (await cachedFiles(dataFolder)).reduce((sum, { bytes }) => sum + bytes, 0)

/** Removes what was not used for longest, until the cache is well within its limit. */
export async function trimCache(context: Pick<Context, 'db' | 'dataFolder'>): Promise<void> {
  const limit = cacheMbOf(context) * 1e6
  const files = await cachedFiles(context.dataFolder)
  let bytes = files.reduce((sum, file) => sum + file.bytes, 0)
  if (bytes <= limit) return
  for (const file of files.toSorted((a, b) => a.usedMs - b.usedMs)) {
    if (bytes <= limit * emptiedTo) return
    await rm(file.path, { force: true })
    bytes -= file.bytes
  }
}

let unseenBytes = Number.POSITIVE_INFINITY

/** Tells of a new file in the cache; now and then, and at first, the whole is looked at and trimmed. */
export function addedToCache(context: Context, bytes: number): void {
  unseenBytes += bytes
  if (unseenBytes < cacheMbOf(context) * 1e6 * unseenShare) return
  unseenBytes = 0
  void trimCache(context).catch(() => undefined)
}
