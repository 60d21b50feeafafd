import { routes } from '@/contract/routes'
import { ApiError, call } from '../api/client'
import type { DroppedFile } from './dropped-files'

/** How far a drop is. */
export interface DropProgress {
  readonly files: number
  readonly of: number
  readonly bytes: number
  readonly ofBytes: number
  /** Since the first file was sent, in ms. */
  readonly elapsedMs: number
  /** Files that were not taken, and why. */
  readonly refused: readonly string[]
}

/** Files on their way at a time. */
const together = 3

/**
 * Sends files into a loop's inbox, a few at a time, each from the disk as it goes. What is refused is told, and the others go on.
 * @returns the drop, and how it went
 * @throws ApiError where the drop can't be opened or the application is gone; what `signal` says where it is broken off
 */
export async function sendDrop(
  loopId: string,
  files: readonly DroppedFile[],
  onProgress: (progress: DropProgress) => void,
  signal: AbortSignal,
): Promise<{ readonly drop: string; readonly progress: DropProgress }> {
  const ofBytes = files.reduce((sum, { file }) => sum + file.size, 0)
  const { drop } = await call(routes.openDrop, { asked: { id: loopId }, body: { bytes: ofBytes } }, { signal })
  const began = performance.now()
  let progress: DropProgress = { files: 0, of: files.length, bytes: 0, ofBytes, elapsedMs: 0, refused: [] }
  // All draw from the same list.
  const waiting = files.values()
  const sendNext = async (): Promise<void> => {
    for (const { file, name } of waiting) {
      signal.throwIfAborted()
      const refused = await call(routes.sendToDrop, { asked: { id: loopId, drop, name } }, { file, signal }).then(
        () => [],
        (problem: unknown) => {
          // One that is no picture is told; a server that is gone ends it all.
          if (problem instanceof ApiError && problem.status >= 400 && problem.status < 500) return [problem.message]
          throw problem
        },
      )
      progress = {
        ...progress,
        files: progress.files + 1,
        bytes: progress.bytes + file.size,
        elapsedMs: performance.now() - began,
        refused: [...progress.refused, ...refused],
      }
      onProgress(progress)
    }
  }
  try {
    onProgress(progress)
    await Promise.all(Array.from({ length: together }, sendNext))
    return { drop, progress }
  } catch (problem) {
    await call(routes.forgetDrop, { asked: { id: loopId, drop } }).catch(() => undefined)
    throw problem
  }
}
