import { basename } from 'node:path'
import PQueue from 'p-queue'
import { AppError, errorSentence, reportOf } from '@/base/errors'
import { counted } from '@/base/format'
import { inNaturalOrder } from '@/base/natural-order'
import { type FoundPicture, foundPicture, type Scanned, type ScanProgress, scanIntake } from '@/files/scan'
import { asksWhich } from '@/jobs/folder-questions'
import { bothLeftOut, leftOutSentences, nothingLeftOut } from '@/jobs/left-out'
import { foldersOf, type IntakeOrder, type Loop, type LoopIntake } from '@/jobs/loop'
import { type Condition, describeCondition, holds } from '@/macros/condition'
import type { PictureFacts } from '@/pixels/picture'
import type { Context } from '../context'
import { dropOf } from '../drops'
import { knownFacts } from './known-facts'
import { type AddProblem, askedBefore, named } from './problems'

/** How far the look at an intake has come: finding files, reading what they tell, foreseeing what becomes of them. */
export type IntakeProgress =
  | ({ readonly stage: 'finding' } & ScanProgress)
  | { readonly stage: 'reading' | 'measuring' | 'foreseeing'; readonly done: number; readonly of: number }

/** Who waits for a long look, hears how far it is, and may end it. */
export interface Watcher {
  readonly signal?: AbortSignal
  onProgress?(progress: IntakeProgress): void
}

/** Pictures between two tellings. */
export const tellEvery = 200

/** A picture with what it tells, or why it can't be read. */
export interface KnownPicture {
  readonly picture: FoundPicture
  readonly facts: PictureFacts | AppError
}

/** The pictures that a loop takes, in their order, and what else lies there. Why there are none is a problem of its own. */
export async function findPictures(context: Context, loop: Loop, tell: AddProblem, watcher: Watcher): Promise<Scanned> {
  const { intake } = loop
  const add = askedBefore(asksWhich(intake), tell)
  const scanned = intake.picked ? await findPicked(context, loop, intake.picked, add) : await scanFolders(context, loop, add, watcher)
  if (!scanned || scanned.found.length === 0) return scanned ?? nothingFound
  const wanted = await inOrder(context, await meant(context, scanned.found, intake.only, watcher), intake.order, watcher)
  if (wanted.length === 0) {
    const mend = { label: 'Take all pictures', change: { intake: { ...intake, only: [] } } }
    const filters = intake.only.map(describeCondition).join(' and ')
    add('intake', true, `None of the ${counted(scanned.found.length, 'picture')} is meant by the filters: ${filters}.`, {
      mend,
      nothingToDo: true,
    })
  }
  return { ...scanned, found: wanted }
}

const nothingFound: Scanned = { found: [], leftOut: nothingLeftOut }

/** All that lies in the folders; undefined where one can't be looked into. */
async function scanFolders(context: Context, { intake, start }: Loop, add: AddProblem, watcher: Watcher): Promise<Scanned | undefined> {
  const folders = foldersOf(intake)
  if (folders.length === 0) {
    add(
      'intake',
      true,
      intake.asked ? 'Which pictures is asked before each run, and nothing is answered yet.' : 'Choose the folder to take pictures from.',
      {
        toFillIn: true,
      },
    )
    return undefined
  }
  const found = new Map<string, FoundPicture>()
  let leftOut = nothingLeftOut
  for (const folder of folders)
    try {
      const onBatch = (progress: ScanProgress): void => {
        watcher.signal?.throwIfAborted()
        watcher.onProgress?.({ stage: 'finding', ...progress, pictures: progress.pictures + found.size })
      }
      const scanned = await scanIntake({ ...intake, folder: context.roots.check(folder) }, onBatch)
      leftOut = bothLeftOut(leftOut, scanned.leftOut)
      // A picture that lies under two of the folders is taken once.
      for (const picture of scanned.found) if (!found.has(picture.path)) found.set(picture.path, picture)
    } catch (error) {
      watcher.signal?.throwIfAborted()
      add('intake', true, errorSentence(reportOf(error)))
      return undefined
    }
  for (const sentence of leftOutSentences(leftOut)) add('intake', false, sentence)
  if (found.size === 0) tellEmpty(intake, start.when !== 'byHand', add)
  return { found: [...found.values()], leftOut }
}

function tellEmpty(intake: LoopIntake, isArmed: boolean, add: AddProblem): void {
  const where = foldersOf(intake).join(', ')
  if (isArmed) {
    add('intake', true, `There are no pictures in ${where} yet. It starts by itself once some come.`, { nothingToDo: true, toFillIn: true })
    return
  }
  const mend = intake.subfolders ? undefined : { label: 'Look in subfolders too', change: { intake: { ...intake, subfolders: true } } }
  add('intake', true, `There are no pictures in ${where}${intake.subfolders ? ' or its subfolders' : ''}.`, { mend, nothingToDo: true })
}

/** The pictures that were picked, as far as they are still there. */
async function findPicked(context: Context, { intake }: Loop, picked: readonly string[], add: AddProblem): Promise<Scanned> {
  const found: FoundPicture[] = []
  const gone: string[] = []
  const folders = [intake.folder, ...intake.more].filter((folder) => folder && context.roots.allows(folder))
  const look = async (path: string): Promise<FoundPicture | string> =>
    foundPicture(context.roots.check(path), folders).catch((error) =>
      reportOf(error).code === 'fileMissing' ? path : Promise.reject(error),
    )
  for (const path of picked)
    try {
      const picture = await look(path)
      if (typeof picture === 'string') gone.push(picture)
      else found.push(picture)
    } catch (error) {
      add('intake', true, errorSentence(reportOf(error)))
    }
  if (picked.length === 0) add('intake', true, 'Pick the pictures to take.', { toFillIn: true })
  if (gone.length > 0) {
    const mend = { label: gone.length === 1 ? 'Drop it' : `Drop all ${gone.length}`, change: { intake: without(intake, gone) } }
    const isAll = found.length === 0
    add(
      'intake',
      isAll,
      `${isAll ? 'All' : counted(gone.length, 'picture')} that ${gone.length === 1 ? 'was' : 'were'} picked ${gone.length === 1 ? 'is' : 'are'} gone: ${named(gone.map((path) => basename(path)))}.`,
      { mend },
    )
  }
  return { found: inNaturalOrder(found, ({ path }) => path), leftOut: nothingLeftOut }
}

const without = (intake: LoopIntake, gone: readonly string[]): LoopIntake => {
  const none = new Set(gone)
  return { ...intake, picked: (intake.picked ?? []).filter((path) => !none.has(path)) }
}

/** Files read at the same time. */
const readers = 8

/** What each picture tells of itself. */
export async function factsOf(
  { roots }: Context,
  found: readonly FoundPicture[],
  { signal, onProgress }: Watcher,
): Promise<KnownPicture[]> {
  const queue = new PQueue({ concurrency: readers })
  let done = 0
  return queue.addAll(
    found.map((picture) => async (): Promise<KnownPicture> => {
      signal?.throwIfAborted()
      const facts = await knownFacts(picture, roots)
      if (done++ % tellEvery === 0) onProgress?.({ stage: 'reading', done, of: found.length })
      return { picture, facts }
    }),
  )
}

/** Pictures for which all conditions hold. One that can't be read stays in the list, so that it is told. */
async function meant(
  context: Context,
  found: readonly FoundPicture[],
  only: readonly Condition[],
  watcher: Watcher,
): Promise<FoundPicture[]> {
  if (only.length === 0) return [...found]
  const isMeant = ({ picture, facts }: KnownPicture): boolean =>
    facts instanceof AppError || only.every((condition) => holds(condition, { facts, name: basename(picture.path) }))
  return (await factsOf(context, found, watcher)).filter(isMeant).map(({ picture }) => picture)
}

/** Pictures that do not tell when they were taken come last. */
async function inOrder(context: Context, found: readonly FoundPicture[], order: IntakeOrder, watcher: Watcher): Promise<FoundPicture[]> {
  if (order === 'name') return inNaturalOrder(found, ({ path }) => basename(path))
  if (order === 'folder') return [...found]
  const takenAt = ({ facts }: KnownPicture): string => (facts instanceof AppError ? '~' : (facts.taken ?? '~'))
  const known = (await factsOf(context, found, watcher)).map((each) => ({ picture: each.picture, taken: takenAt(each) }))
  return known.toSorted((a, b) => (a.taken < b.taken ? -1 : a.taken === b.taken ? 0 : 1)).map(({ picture }) => picture)
}

/** Pictures given one by one. Each must lie under the roots; one that does not is a problem of its own. */
export async function handedIn(context: Context, files: readonly string[], add: AddProblem): Promise<FoundPicture[]> {
  const found: FoundPicture[] = []
  for (const file of files)
    try {
      const drop = dropOf(context, file)
      found.push(await foundPicture(context.roots.check(file), drop ? [context.roots.check(drop)] : []))
    } catch (error) {
      add('pictures', true, errorSentence(reportOf(error)))
    }
  if (files.length === 0) add('intake', true, 'No pictures were handed in.')
  return found
}
