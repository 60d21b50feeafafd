import { mkdir } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { AppError, reasonOf } from '@/base/errors'
import { openRegular } from '@/files/open-file'
import { defaultDelivery } from '@/jobs/delivery'
import type { Gather, GatheredFile } from '@/jobs/gather'
import { isOver } from '@/jobs/run'
import * as store from '@/store/runs'
import type { Context } from '../context'
import { bookOf, type SetPicture } from './book-of'
import { gatherRun, problemOf, setHash } from './gather-run'
import { type GatherWatcher, placePages } from './place-pages'

/** Delivered pictures, to be gathered on pages afterwards. */
export interface PagesAfterwards {
  /** Results of runs, in the order of the pages. */
  readonly resultIds: readonly number[]
  readonly gather: Gather
  readonly folder: string
}

/** Stands for the delivery of pages that were made afterwards. */
const afterwards = 'afterwards'

/**
 * Gathers delivered pictures on pages after the fact, and notes these with the run of the first one.
 * @throws AppError `notFound`, `outsideRoots`, and what keeps files from being written
 */
export async function makePages(
  context: Context,
  { resultIds, gather, folder: given }: PagesAfterwards,
  watcher: GatherWatcher = {},
): Promise<readonly GatheredFile[]> {
  const found = resultIds.flatMap((id) => store.findResult(context.db, id) ?? [])
  const run = found[0] && store.findRun(context.db, found[0].item.runId)
  const pictures = found.flatMap(({ item, result }): SetPicture[] =>
    result.hash && result.width && result.height
      ? [
          {
            ...{ sourcePath: item.sourcePath, relativePath: item.relativePath, file: context.roots.check(result.targetPath) },
            ...{ hash: result.hash, width: result.width, height: result.height },
          },
        ]
      : [],
  )
  if (!run || pictures.length === 0) throw new AppError('notFound', { what: 'A delivered picture for the pages' })
  const folder = context.roots.check(given)
  await mkdir(folder, { recursive: true }).catch((error) => {
    throw new AppError('deliveryUnwritable', { path: folder, reason: reasonOf(error) })
  })
  const delivery = { ...defaultDelivery(afterwards, folder), name: 'Pages', gather: { ...gather, folder } }
  const book = await bookOf(context, run, delivery, delivery.gather, pictures)
  const made = await placePages(run, delivery, book, [], watcher).catch((error) => {
    throw new AppError('pagesFailed', { reason: problemOf(error).replace(/\.$/, '') })
  })
  const files = made.map((part) => ({
    ...{ deliveryId: afterwards, pages: book.pages.length, pictures: pictures.length, leftOut: [], problem: null },
    set: setHash(delivery.gather, pictures),
    ...part,
  }))
  const known = store.findRun(context.db, run.id)?.gathered ?? []
  const others = known.filter(({ path }) => !files.some((file) => file.path === path))
  store.noteGathered(context.db, run.id, [...others, ...files], Date.now())
  return files
}

/** Makes a run's pages again, where something kept them from being made. @throws AppError `notFound` */
export async function makePagesAgain(context: Context, runId: string, watcher: GatherWatcher = {}): Promise<void> {
  const run = store.findRun(context.db, runId)
  if (!run || !isOver(run.state)) throw new AppError('notFound', { what: 'The finished run' })
  const kept = run.gathered.filter(({ deliveryId }) => deliveryId === afterwards)
  await gatherRun(context, run, watcher)
  const made = store.findRun(context.db, runId)?.gathered ?? []
  if (kept.length > 0) store.noteGathered(context.db, runId, [...made, ...kept], Date.now())
}

/** A file of pages as it is sent: read as fast as it is taken. */
export interface SentPages {
  readonly path: string
  readonly sizeBytes: number
  readonly stream: ReadableStream
}

/** A file of pages that a run made. @throws AppError `notFound`, `outsideRoots`, `fileMissing` */
export async function sentPages({ db, roots }: Context, runId: string, index: number): Promise<SentPages> {
  const known = store.findRun(db, runId)?.gathered[index]
  if (!known || known.problem !== null) throw new AppError('notFound', { what: 'The file of pages' })
  const path = roots.check(known.path)
  const file = await openRegular(path, roots)
  const { size } = await file.stat()
  return { path, sizeBytes: size, stream: Readable.toWeb(file.createReadStream()) as ReadableStream }
}
