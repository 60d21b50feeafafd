import { createHash } from 'node:crypto'
import { mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { readFacts } from '@/files/facts'
import { safeSegment } from '@/files/safe-names'
import { readBench } from '@/store/bench'
import { type Context, droppedFolder } from './context'

export const maxDroppedBytes = 256 << 20
/** Dropped pictures that no longer lie on the bench are kept this long. */
const keptMs = 30 * 24 * 3600 * 1000

/**
 * Keeps a picture that was dropped onto the bench, by its content, under its own name.
 * @throws AppError `fileEmpty`, `notAPicture` and the like for what is none
 */
export async function keepDropped(context: Context, bytes: Buffer, name: string): Promise<{ path: string }> {
  await readFacts(bytes, name)
  const hash = createHash('sha256').update(bytes).digest('hex').slice(0, 16)
  const folder = join(droppedFolder(context.dataFolder), hash)
  const path = join(folder, safeSegment(name))
  await clearOld(context)
  await mkdir(folder, { recursive: true })
  await writeFile(`${path}.${process.pid}.part`, bytes)
  await rename(`${path}.${process.pid}.part`, path)
  return { path }
}

async function clearOld(context: Context): Promise<void> {
  const root = droppedFolder(context.dataFolder)
  const { samples, samplePath } = readBench(context.db)
  const onBench = [...samples, samplePath ?? '']
  for (const name of await readdir(root)) {
    const folder = join(root, name)
    const { mtimeMs } = await stat(folder)
    if (Date.now() - mtimeMs > keptMs && !onBench.some((path) => path.startsWith(folder))) await rm(folder, { recursive: true })
  }
}
