import { createHash } from 'node:crypto'
import { rm, stat } from 'node:fs/promises'
import { basename, join, relative, sep } from 'node:path'
import { errorSentence, reportOf } from '@/base/errors'
import { completeDelivery, type Delivery } from '@/jobs/delivery'
import { type Gather, type GatheredFile, gatherOf } from '@/jobs/gather'
import { type DeliveredSource, lastDeliveries } from '@/store/delivered'
import * as store from '@/store/runs'
import { type Context, gatheredFolder, triesFolder } from '../context'
import { bookOf, type SetPicture } from './book-of'
import { type GatherWatcher, placePages } from './place-pages'

/* At the end of a run, its pictures are gathered on pages: of the whole set, also of what an earlier run made and this one left as it was. */

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
    return [{ ...file, problem: problemOf(error) }]
  }
}

/** Why there are no pages, in words: the run is over, nothing of it goes on by itself. */
export const problemOf = (error: unknown): string =>
  errorSentence(reportOf(error)).replace('the run goes on by itself', 'then make the pages again')

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
export const setHash = (gather: Gather, pictures: readonly SetPicture[]): string =>
  createHash('sha256')
    .update(JSON.stringify([gather, pictures.map(({ relativePath, hash }) => [relativePath, hash])]))
    .digest('hex')

/** The pages of the loop's last run that made any of this delivery. */
function lastGathered({ db }: Context, run: store.StoredRun, { id }: Delivery): readonly GatheredFile[] {
  for (const { gathered } of store.gatheringRunsBefore(db, run)) {
    const own = gathered.filter(({ deliveryId, problem }) => deliveryId === id && problem === null)
    if (own.length > 0) return own
  }
  return []
}

const areThere = async (files: readonly GatheredFile[]): Promise<boolean> =>
  (await Promise.all(files.map(async ({ path, bytes }) => (await stat(path).catch(() => undefined))?.size === bytes))).every(Boolean)

/** Pictures that waited for the pages of earlier runs, and are on none of these any more, go. */
async function clearEarlier(context: Context, run: store.StoredRun, gathering: readonly Delivery[]): Promise<void> {
  const root = gatheredFolder(context.dataFolder)
  const runOf = (path: string): string | undefined => relative(root, path).split(sep)[0]
  const used = new Set(gathering.flatMap((delivery) => pictureSet(context, run, delivery).pictures.map(({ file }) => runOf(file))))
  for (const earlier of store.gatheringRunsBefore(context.db, run))
    if (!used.has(String(earlier.number))) await rm(join(root, String(earlier.number)), { recursive: true, force: true })
}
