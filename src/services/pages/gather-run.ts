import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { readFile, rm, stat } from 'node:fs/promises'
import { basename, dirname, extname, join, relative, sep } from 'node:path'
import dayjs from 'dayjs'
import { AppError, errorSentence, reportOf } from '@/base/errors'
import { expandLine, type NameContext } from '@/files/names'
import { placeFile, placeWritten } from '@/files/placing'
import { fitName, safeSegment } from '@/files/safe-names'
import { completeDelivery, type Delivery } from '@/jobs/delivery'
import { formatOf, type Gather, type GatheredFile, gatherOf } from '@/jobs/gather'
import type { Book, BookPicture } from '@/pages/book'
import { layPages } from '@/pages/layout'
import { writePdf } from '@/pages/pdf'
import { pageImage } from '@/pages/raster'
import { pageFaces } from '@/pages/type'
import { expandPageLine } from '@/pages/words'
import type { PictureFacts } from '@/pixels/picture'
import { type DeliveredSource, lastDeliveries } from '@/store/delivered'
import * as store from '@/store/runs'
import { type Context, gatheredFolder, triesFolder } from '../context'
import { knownFacts } from '../preflight/known-facts'

/* At the end of a run, its pictures are gathered on pages: of the whole set, also of what an earlier run made and this one left as it was. */

/** Told as it goes on. */
export interface GatherWatcher {
  onProgress?(done: number): void
}

/** A picture of the set: the file that was made of it, and what is known of its source. */
interface SetPicture {
  readonly sourcePath: string
  readonly relativePath: string
  readonly file: string
  readonly hash: string
  readonly width: number
  readonly height: number
}

/** Makes the pages of all deliveries that gather, and keeps what came of it with the run. What can't be made is told there; the run ends. */
export async function gatherRun(context: Context, run: store.StoredRun, watcher: GatherWatcher = {}): Promise<void> {
  const gathering = run.deliveries.map(completeDelivery).filter(({ gather }) => gather)
  if (gathering.length === 0) return
  const gathered: GatheredFile[] = []
  for (const delivery of gathering) gathered.push(...(await gatherOne(context, run, delivery, watcher)))
  store.noteGathered(context.db, run.id, gathered, Date.now())
  if (!run.isTry && gathered.every(({ problem }) => problem === null)) await clearEarlier(context, run, gathering)
}

async function gatherOne(
  context: Context,
  run: store.StoredRun,
  delivery: Delivery,
  watcher: GatherWatcher,
): Promise<readonly GatheredFile[]> {
  const gather = gatherOf(delivery.gather ?? {})
  const { pictures, leftOut } = pictureSet(context, run, delivery)
  const file: GatheredFile = {
    ...{ deliveryId: delivery.id, path: '', bytes: 0, hash: '', pages: 0, pictures: pictures.length, leftOut, problem: null },
    set: setHash(gather, pictures),
  }
  if (pictures.length === 0) return [{ ...file, problem: 'None of its pictures was delivered.' }]
  const before = lastGathered(context, run, delivery)
  // The same pages of the same pictures are there already.
  if (before.length > 0 && before.every(({ set }) => set === file.set) && (await areThere(before)))
    return before.map((known) => ({ ...known, leftOut }))
  try {
    const book = await bookOf(context, run, delivery, gather, pictures)
    const made = await placePages(run, delivery, book, before, watcher)
    return made.map((part) => ({ ...file, ...part, pages: book.pages.length }))
  } catch (error) {
    return [{ ...file, problem: errorSentence(reportOf(error)).replace('the run goes on by itself', 'then make the pages again') }]
  }
}

/** The whole set in its order: what this run made, and what earlier ones made of pictures that it left as they were. */
function pictureSet(context: Context, run: store.StoredRun, delivery: Delivery): { pictures: SetPicture[]; leftOut: string[] } {
  const pictures: SetPicture[] = []
  const leftOut: string[] = []
  let last: ReadonlyMap<string, DeliveredSource> | undefined
  for (const item of store.listItemsBriefly(context.db, run.id)) {
    const { sourcePath, relativePath } = item
    const own = item.results.find(({ deliveryId, hash }) => deliveryId === delivery.id && hash)
    if (own?.hash && own.width && own.height) {
      pictures.push({ sourcePath, relativePath, file: own.targetPath, hash: own.hash, width: own.width, height: own.height })
      continue
    }
    const isKept = item.state === 'skipped' && !item.touchUp?.setAside
    if (isKept) last ??= lastDeliveries(context.db, run.loopId, triesFolder(context.dataFolder))
    const earlier = isKept ? last?.get(sourcePath) : undefined
    const result = earlier?.results.find(({ deliveryId }) => deliveryId === delivery.id)
    const known = result && store.findResult(context.db, result.id)?.result
    if (known?.hash && known.width && known.height)
      pictures.push({ sourcePath, relativePath, file: known.targetPath, hash: known.hash, width: known.width, height: known.height })
    else leftOut.push(basename(sourcePath))
  }
  return { pictures, leftOut }
}

/** All that decides how the pages come out. */
const setHash = (gather: Gather, pictures: readonly SetPicture[]): string =>
  createHash('sha256')
    .update(JSON.stringify([gather, pictures.map(({ relativePath, hash }) => [relativePath, hash])]))
    .digest('hex')

/** The pages of the loop's last run that made any of this delivery. */
function lastGathered({ db }: Context, run: store.StoredRun, { id }: Delivery): readonly GatheredFile[] {
  for (const { gathered } of store.runsBefore(db, run)) {
    const own = gathered.filter(({ deliveryId, problem }) => deliveryId === id && problem === null)
    if (own.length > 0) return own
  }
  return []
}

const areThere = async (files: readonly GatheredFile[]): Promise<boolean> =>
  (await Promise.all(files.map(async ({ path, bytes }) => (await stat(path).catch(() => undefined))?.size === bytes))).every(Boolean)

/** Where faces lie: beside the built processes, or where tests find them. */
const facesFolder = (): string => join(process.cwd(), '.build', 'fonts')
export const readFaces = (folder = facesFolder()): Promise<Uint8Array[]> =>
  Promise.all(pageFaces.map((face) => readFile(join(folder, `${face}.woff`))))

async function bookOf(
  { roots }: Context,
  run: store.StoredRun,
  delivery: Delivery,
  gather: Gather,
  pictures: readonly SetPicture[],
): Promise<Book> {
  const today = dayjs(run.createdAt).format('YYYY-MM-DDTHH:mm:ss')
  const inFolder = new Map<string, number>()
  const laid: BookPicture[] = []
  for (const [index, picture] of pictures.entries()) {
    const folder = dirname(picture.relativePath)
    const indexInFolder = inFolder.get(folder) ?? 0
    inFolder.set(folder, indexInFolder + 1)
    const size = { width: picture.width, height: picture.height }
    const source = await stat(picture.sourcePath).catch(() => undefined)
    const facts =
      source && (await knownFacts({ path: picture.sourcePath, sizeBytes: source.size, modifiedMs: Math.floor(source.mtimeMs) }, roots))
    const subject: NameContext = {
      name: basename(picture.sourcePath, extname(picture.sourcePath)),
      folders: [
        basename(dirname(picture.sourcePath).slice(0, -(folder === '.' ? 0 : folder.length + 1)) || '/'),
        ...(folder === '.' ? [] : folder.split('/')),
      ],
      index,
      indexInFolder,
      // Of a source that has gone since, only its size and name are known.
      facts: facts && !(facts instanceof AppError) ? facts : ({ size } as PictureFacts),
      deliveredSize: size,
      macro: run.macros.at(-1)?.name ?? '',
      loop: run.loopName,
      delivery: delivery.name,
      run: String(run.number),
      today,
      answers: {},
    }
    laid.push({
      path: picture.file,
      name: basename(picture.file, extname(picture.file)),
      size,
      folder,
      captions: gather.captions.filter((line) => line.trim() !== '').map((line) => expandLine(line, subject)),
    })
  }
  const words = { loop: run.loopName, delivery: delivery.name, run: String(run.number), today }
  return {
    ...{ gather, pictures: laid, pages: layPages(gather, laid), words },
    title: gather.title.trim() || run.loopName,
    author: gather.author.trim(),
    madeAt: Math.floor(run.createdAt / 1000) * 1000,
    faces: await readFaces(),
  }
}

/** More numbered names than this for one wish mean that something else is wrong. */
const maxNumbered = 1000

type Made = Pick<GatheredFile, 'path' | 'bytes' | 'hash'>

/** One file for a PDF, one for each page as a picture. */
async function placePages(
  run: store.StoredRun,
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

/** Pictures that waited for the pages of earlier runs, and are on none of these any more, go. */
async function clearEarlier(context: Context, run: store.StoredRun, gathering: readonly Delivery[]): Promise<void> {
  const root = gatheredFolder(context.dataFolder)
  const runOf = (path: string): string | undefined => relative(root, path).split(sep)[0]
  const used = new Set(gathering.flatMap((delivery) => pictureSet(context, run, delivery).pictures.map(({ file }) => runOf(file))))
  for (const earlier of store.runsBefore(context.db, run))
    if (earlier.deliveries.some(({ gather }) => gather) && !used.has(String(earlier.number)))
      await rm(join(root, String(earlier.number)), { recursive: true, force: true })
}
