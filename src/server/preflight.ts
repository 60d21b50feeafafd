import { mkdir } from 'node:fs/promises'
import { basename, dirname, relative, sep } from 'node:path'
import PQueue from 'p-queue'
import { checkCaption } from '@/core/caption'
import { type Condition, describeCondition, holds, isLike } from '@/core/condition'
import { AppError, errorSentence, reasonOf, reportOf } from '@/core/errors'
import { counted } from '@/core/format'
import { foldersOf, type IntakeOrder, type Loop } from '@/core/loop'
import * as macroStore from '@/db/macros'
import { type FrozenItem, nextRunNumber } from '@/db/runs'
import type { FrozenMacro } from '@/db/schema'
import { unknownOperations } from '@/macro/codec'
import { type Answers, answerSteps, type Question, questionsOf } from '@/macro/open'
import { completeStep, type Step } from '@/macro/step'
import { PatternError, parsePattern } from '@/pictures/names'
import { type FoundPicture, foundPicture, scanIntake } from '@/pictures/scan'
import type { Context } from './context'
import { type CheckedDelivery, type ForeseenPicture, type ForeseenTarget, foresee } from './foresee'
import { knownFacts } from './pictures'
import { checkIdleMacros, checkKeptFiles, checkPlaces, estimateBytes, remarkEnlarged, remarkShapes } from './preflight-checks'

export type ProblemPlace = 'intake' | 'macros' | 'delivery' | 'pictures'

export interface Problem {
  readonly place: ProblemPlace
  /** A run can't start while one of these stands. */
  readonly blocks: boolean
  readonly sentence: string
}

export interface Preflight {
  readonly problems: readonly Problem[]
  readonly pictures: readonly ForeseenPicture[]
  readonly totals: {
    readonly pictures: number
    readonly folders: number
    readonly bytes: number
    readonly unreadable: number
    readonly estimatedBytes: number
  }
  readonly macros: readonly FrozenMacro[]
  /** What the macros ask before a run. */
  readonly questions: readonly Question[]
}

export interface PreflightWishes {
  readonly answers?: Answers
  /** Pictures handed in, instead of those of the intake. */
  readonly files?: readonly string[]
}

/** Checks all of a loop before a run: what would happen, what would fail, and why. Writes nothing. */
export async function preflight(context: Context, loop: Loop, { answers = {}, files }: PreflightWishes = {}): Promise<Preflight> {
  const problems: Problem[] = []
  const add = (place: ProblemPlace, blocks: boolean, sentence: string): void => void problems.push({ place, blocks, sentence })
  const unanswered = frozenMacros(context, loop, add)
  const questions = questionsOf(unanswered.flatMap(({ steps }) => steps as readonly Step[]))
  const macros = unanswered.map((macro) => ({ ...macro, steps: answerSteps(macro.steps as readonly Step[], answers) }))
  const found = files ? await handedIn(context, files, add) : await findPictures(context, loop, add)
  const deliveries = checkDeliveries(context, loop, add)
  const pictures = await foresee(loop, found, macros, deliveries, nextRunNumber(context.db))
  remarkNames(pictures, add)
  remarkEnlarged(pictures, add)
  remarkShapes(pictures, macros, add)
  checkIdleMacros(macros, add)
  await checkKeptFiles(context, macros, add)
  const estimatedBytes = estimateBytes(pictures, deliveries)
  await checkPlaces(deliveries, estimatedBytes, add)
  const unreadable = pictures.filter((picture) => picture.error).length
  if (unreadable > 0) add('pictures', false, `${counted(unreadable, 'picture')} can't be read and will be left out; all others go through.`)
  const totals = {
    pictures: found.length,
    folders: new Set(found.map((picture) => dirname(picture.path))).size,
    bytes: found.reduce((sum, picture) => sum + picture.sizeBytes, 0),
    unreadable,
    estimatedBytes,
  }
  return { problems, pictures, totals, macros, questions }
}

export type AddProblem = (place: ProblemPlace, blocks: boolean, sentence: string) => void

async function findPictures(context: Context, { intake }: Loop, add: AddProblem): Promise<FoundPicture[]> {
  const folders = foldersOf(intake)
  if (folders.length === 0) {
    add('intake', true, 'Choose the folder to take pictures from.')
    return []
  }
  const found = new Map<string, FoundPicture>()
  for (const folder of folders)
    try {
      // A picture that lies under two of the folders is taken once.
      for (const picture of await scanIntake({ ...intake, folder: context.roots.check(folder) }))
        if (!found.has(picture.path)) found.set(picture.path, picture)
    } catch (error) {
      add('intake', true, errorSentence(reportOf(error)))
      return []
    }
  const all = [...found.values()]
  const wanted = await inOrder(await meant(all, intake.only), intake.order)
  if (all.length === 0)
    add('intake', true, `There are no pictures in ${folders.join(', ')}${intake.subfolders ? ' or its subfolders' : ''}.`)
  else if (wanted.length === 0)
    add(
      'intake',
      true,
      `None of the ${counted(all.length, 'picture')} is meant by the filters: ${intake.only.map(describeCondition).join(' and ')}.`,
    )
  return wanted
}

const looking = new PQueue({ concurrency: 8 })
const factsOf = (found: readonly FoundPicture[]) => looking.addAll(found.map((picture) => () => knownFacts(picture)))

/** Pictures for which all conditions hold. One that can't be read stays in the list, so that it is told. */
async function meant(found: readonly FoundPicture[], only: readonly Condition[]): Promise<FoundPicture[]> {
  if (only.length === 0) return [...found]
  const facts = await factsOf(found)
  return found.filter((picture, i) => {
    const known = facts[i]
    return (
      known instanceof AppError ||
      (known !== undefined && only.every((condition) => holds(condition, { facts: known, name: basename(picture.path) })))
    )
  })
}

const naturally = new Intl.Collator('en', { numeric: true, sensitivity: 'base' }).compare

/** Pictures that do not tell when they were taken come last. */
async function inOrder(found: readonly FoundPicture[], order: IntakeOrder): Promise<FoundPicture[]> {
  if (order === 'name') return found.toSorted((a, b) => naturally(basename(a.path), basename(b.path)))
  if (order === 'folder') return [...found]
  const facts = await factsOf(found)
  const taken = new Map(found.map((picture, i) => [picture, facts[i] instanceof AppError ? '~' : (facts[i]?.taken ?? '~')]))
  return found.toSorted((a, b) => ((taken.get(a) ?? '~') < (taken.get(b) ?? '~') ? -1 : taken.get(a) === taken.get(b) ? 0 : 1))
}

/** Pictures given one by one. Each must lie under the roots; one that does not is a problem of its own. */
async function handedIn(context: Context, files: readonly string[], add: AddProblem): Promise<FoundPicture[]> {
  const found: FoundPicture[] = []
  for (const file of files)
    try {
      found.push(await foundPicture(context.roots.check(file)))
    } catch (error) {
      add('pictures', true, errorSentence(reportOf(error)))
    }
  if (files.length === 0) add('intake', true, 'No pictures were handed in.')
  return found
}

function frozenMacros({ db }: Context, loop: Loop, add: AddProblem): FrozenMacro[] {
  if (loop.macros.length === 0) add('macros', true, 'Choose a macro to put the pictures through.')
  return loop.macros.flatMap(({ macroId, revision }) => {
    const macro = macroStore.findMacro(db, macroId, revision)
    if (!macro) {
      add('macros', true, errorSentence({ code: 'macroMissing', details: { macro: 'that this loop used' } }))
      return []
    }
    const steps = (macro.steps as readonly Step[]).map(completeStep)
    for (const index of unknownOperations(steps)) {
      const operation = steps[index]?.operation ?? ''
      add(
        'macros',
        true,
        errorSentence({ code: 'macroUnknownOperation', details: { where: `Step ${index + 1} of ${macro.name}`, operation } }),
      )
    }
    return [{ macroId, revision: macro.revision, name: macro.name, steps }]
  })
}

function checkDeliveries(context: Context, loop: Loop, add: AddProblem): CheckedDelivery[] {
  if (loop.deliveries.length === 0) add('delivery', true, 'Add a delivery: a folder for the finished pictures.')
  return loop.deliveries.flatMap((delivery) => {
    try {
      if (!delivery.folder) throw new PatternError('Choose the folder to deliver to')
      const folder = context.roots.check(delivery.folder)
      const overlap = overlapProblem(context, loop, folder)
      if (overlap) add('delivery', true, overlap)
      for (const line of Object.values(delivery.metadata.fields)) checkCaption(line)
      return [{ delivery, folder, pattern: parsePattern(delivery.namePattern) }]
    } catch (error) {
      add('delivery', true, error instanceof PatternError ? `${error.message}.` : errorSentence(reportOf(error)))
      return []
    }
  })
}

/** Delivering into the intake, or around it, would feed results back as sources or mix them with originals. */
function overlapProblem({ roots }: Context, { intake }: Loop, delivery: string): string | undefined {
  const inside = (inner: string, outer: string): boolean => inner.startsWith(outer + sep)
  for (const folder of foldersOf(intake)) {
    if (!roots.allows(folder)) continue
    const source = roots.check(folder)
    if (delivery === source) return 'The delivery folder is the intake folder itself. Originals and results must not mix: choose another.'
    // A subfolder that the intake passes over by its name never comes back as a source.
    const below = inside(delivery, source) ? relative(source, delivery).split(sep) : []
    const passedOver = !intake.subfolders || below.some((name) => intake.without.some((pattern) => isLike(name, pattern)))
    if (below.length > 0 && !passedOver)
      return `The delivery folder lies inside the intake folder ${source}. Results would come back as sources: choose one beside it, or pass over its name.`
    if (inside(source, delivery))
      return `The intake folder lies inside the delivery folder ${delivery}. Choose a folder that holds only results.`
  }
  return undefined
}

/** Tells of names that are taken: by files that are there, or by other pictures of the run. Nothing is ever replaced. */
function remarkNames(pictures: readonly ForeseenPicture[], add: AddProblem): void {
  const countTargets = (why: ForeseenTarget['numbered']): number =>
    pictures.filter((picture) => picture.targets.some((target) => target.numbered === why)).length
  const there = countTargets('fileThere')
  const same = countTargets('sameName')
  const skipped = pictures.filter((picture) => picture.skip).length
  if (there > 0)
    add(
      'delivery',
      false,
      `For ${counted(there, 'picture')} a file of the same name is there already. The new ones are numbered; nothing is replaced.`,
    )
  if (same > 0)
    add(
      'delivery',
      false,
      `${counted(same, 'picture')} would get a name that another one of this run has, and are numbered. A pattern with {n:001} or {folder} avoids that.`,
    )
  if (skipped > 0) add('delivery', false, `${counted(skipped, 'picture')} will be skipped: the delivered file is there already.`)
}

/** The list of a run as it is frozen: every picture with the names it will get, or why it is left out. */
export function freeze(check: Preflight): FrozenItem[] {
  return check.pictures.map(({ sourcePath, relativePath, sizeBytes, modifiedMs, targets, error, skip }) => ({
    sourcePath,
    relativePath,
    sizeBytes,
    modifiedMs,
    targets: targets.map(({ deliveryId, path }) => ({ deliveryId, path })),
    ...(error ? { outcome: { state: 'failed', error } } : skip ? { outcome: { state: 'skipped' } } : {}),
  }))
}

/** Makes the delivery folders, so that a run finds them and later tells a vanished disk from a new folder. */
export async function makeDeliveryFolders(context: Context, loop: Loop): Promise<void> {
  for (const delivery of loop.deliveries) {
    const folder = context.roots.check(delivery.folder)
    await mkdir(folder, { recursive: true }).catch((error) => {
      throw new AppError('deliveryUnwritable', { path: folder, reason: reasonOf(error) })
    })
  }
}
