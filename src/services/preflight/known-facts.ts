import { AppError, reasonOf } from '@/base/errors'
import { readFacts } from '@/files/facts'
import type { Roots } from '@/files/roots'
import type { PictureFacts } from '@/pixels/picture'

interface KnownFacts {
  readonly stamp: string
  readonly facts: PictureFacts | AppError
}
const maxKnown = 150_000
const known = new Map<string, KnownFacts>()

/** A head of a file takes milliseconds to read, over a slow network a second. */
const patienceMs = 20_000
/** Each read that never came back keeps a thread; with more than these nothing else would be read any more. */
const maxLostReads = 8
let lostReads = 0

/** Whether this process has lost reads that never came back: then it is better replaced. */
export const hasLostReads = (): boolean => lostReads > 0

/**
 * Facts of a picture, or why it can't be read; remembered while its size and time stay. A file that gives no answer is
 * given up, and so is a disk of which many give none.
 */
export async function knownFacts(
  picture: { readonly path: string; readonly sizeBytes: number; readonly modifiedMs: number },
  roots?: Roots,
): Promise<PictureFacts | AppError> {
  const { path, sizeBytes, modifiedMs } = picture
  const stamp = `${sizeBytes}:${modifiedMs}`
  const before = known.get(path)
  if (before?.stamp === stamp) return before.facts
  if (sizeBytes === 0) return new AppError('fileEmpty', { path })
  const silent = new AppError('fileSilent', { path, seconds: patienceMs / 1000 })
  if (lostReads >= maxLostReads) return silent
  const facts = await inTime(readFacts(path, path, roots), silent).catch((error: unknown) =>
    error instanceof AppError ? error : new AppError('fileUnreadable', { path, reason: reasonOf(error) }),
  )
  if (known.size >= maxKnown) known.clear()
  if (facts !== silent) known.set(path, { stamp, facts })
  return facts
}

async function inTime<T, E>(work: Promise<T>, late: E): Promise<T | E> {
  let timer: NodeJS.Timeout | undefined
  const tooLate = new Promise<E>((resolve) => {
    timer = setTimeout(() => {
      lostReads++
      resolve(late)
    }, patienceMs)
  })
  try {
    return await Promise.race([work, tooLate])
  } finally {
    clearTimeout(timer)
  }
}
