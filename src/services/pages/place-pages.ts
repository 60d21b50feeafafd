import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { AppError } from '@/base/errors'
import { placeFile, placeWritten } from '@/files/placing'
import { fitName, safeSegment } from '@/files/safe-names'
import type { Delivery } from '@/jobs/delivery'
import { formatOf, type GatheredFile } from '@/jobs/gather'
import type { Book } from '@/sheets/book'
import { writePdf } from '@/sheets/pdf'
import { pageImage } from '@/sheets/raster'
import { expandPageLine } from '@/sheets/words'
import type { StoredRun } from '@/store/runs'

/** Told as it goes on. */
export interface GatherWatcher {
  onProgress?(done: number): void
}

/** More numbered names than this for one wish mean that something else is wrong. */
const maxNumbered = 1000

type Made = Pick<GatheredFile, 'path' | 'bytes' | 'hash'>

/** One file for a PDF, one for each page as a picture. */
export async function placePages(
  run: StoredRun,
  delivery: Delivery,
  book: Book,
  before: readonly GatheredFile[],
  { onProgress }: GatherWatcher,
): Promise<readonly Made[]> {
  const format = formatOf(book.gather)
  const folder = book.gather.folder
  const stem = safeSegment(expandPageLine(book.gather.fileName, { ...book.words, page: 1, pages: book.pages.length }))
  const attempt = { runId: run.id, resultId: 0, token: 1 }
  const ofPlace = { run, delivery, before, folder, stem }
  if (format === 'pdf')
    return [
      await placeUnderFreeName(ofPlace, '.pdf', (target, replaces) =>
        placeWritten((path) => writePdf(book, path, onProgress), { base: folder, target, attempt, replaces }),
      ),
    ]
  const made: Made[] = []
  const digits = String(book.pages.length).length
  for (const [index] of book.pages.entries()) {
    const bytes = await pageImage(book, index, onProgress)
    const hash = createHash('sha256').update(bytes).digest('hex')
    const suffix = `-${String(index + 1).padStart(digits, '0')}.${format === 'jpeg' ? 'jpg' : format === 'tiff' ? 'tif' : 'png'}`
    made.push(
      await placeUnderFreeName(ofPlace, suffix, async (target, replaces) => {
        await placeFile(bytes, { base: folder, target, attempt, replaces })
        return { hash }
      }),
    )
  }
  return made
}

interface Place {
  readonly delivery: Delivery
  readonly before: readonly GatheredFile[]
  readonly folder: string
  readonly stem: string
}

/** Places a file under its name, or, where another one has it, does as the delivery wants: numbers it, leaves that one, or replaces its own. */
async function placeUnderFreeName(
  { delivery, before, folder, stem }: Place,
  suffix: string,
  place: (target: string, replaces: string | null) => Promise<{ readonly hash: string }>,
): Promise<Made> {
  for (let number = 1; number < maxNumbered; number++) {
    const target = join(folder, fitName(stem, `${number > 1 ? `-${number}` : ''}${suffix}`))
    const own = delivery.whenThere === 'replace' ? before.find(({ path }) => path === target) : undefined
    try {
      const { hash } = await place(target, own?.hash ?? null)
      return { path: target, hash, bytes: (await stat(target)).size }
    } catch (error) {
      const isTaken = error instanceof AppError && error.code === 'deliveryExists'
      if (!isTaken || delivery.whenThere === 'replace') throw error
      if (delivery.whenThere === 'skip') return { path: target, hash: await hashOf(target), bytes: (await stat(target)).size }
    }
  }
  throw new AppError('deliveryExists', { path: join(folder, stem + suffix) })
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const part of createReadStream(path)) hash.update(part as Uint8Array)
  return hash.digest('hex')
}
