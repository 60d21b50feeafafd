import { mkdir } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import { AppError, reasonOf } from '@/base/errors'
import { counted } from '@/base/format'
import type { Size } from '@/base/geometry'
import { answerFolders } from '@/jobs/folder-questions'
import { type LeftOut, nothingLeftOut } from '@/jobs/left-out'
import type { Loop } from '@/jobs/loop'
import { lostSteps, type StepAddress } from '@/jobs/touch-up'
import { type Condition, describeCondition, holds } from '@/macros/condition'
import { type Answers, answerSteps, type Question } from '@/macros/open'
import { innerSteps, type Step } from '@/macros/step'
import type { PictureFacts } from '@/pixels/picture'
import { lastDelivered, reservedNames } from '@/store/delivered'
import { findMacro, listRevisions } from '@/store/macros'
import { numbersOf, type PictureNumber } from '@/store/picture-numbers'
import * as store from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from '../context'
import { measureSet, remarkSet } from '../measure-set'
import { endFolder } from '../pages/work'
import { type MatchedTouchUps, matchTouchUps } from '../touch-ups'
import {
  checkIdleMacros,
  checkKeptFiles,
  checkPlaces,
  estimateBytes,
  remarkEnlarged,
  remarkFlatRaw,
  remarkShapes,
  remarkShort,
} from './checks'
import { checkDeliveries, remarkNames, remarkNumbers } from './deliveries'
import { type ForeseenPicture, foresee, type NameValues } from './foresee'
import { frozenMacros } from './frozen-macros'
import { factsOf, findPictures, handedIn, type KnownPicture, type Watcher } from './intake'
import { type AddProblem, type Mend, named, type Problem } from './problems'
import { questionsFor } from './questions'

/** How many pictures a step's conditions mean. */
export interface Catch {
  readonly macroId: string
  readonly operation: string
  /** The conditions in words; those of the step that plays it too. */
  readonly when: string
  readonly pictures: number
  /** How many pictures can be read at all. */
  readonly of: number
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
    /** What is left on the fullest of the disks that are delivered to. */
    readonly freeBytes: number | null
    /** How many pictures are of each format. */
    readonly kinds: Readonly<Record<string, number>>
    /** The pictures with the fewest and the most pixels. */
    readonly sizes: readonly [Size, Size] | null
  }
  readonly catches: readonly Catch[]
  readonly leftOut: LeftOut
  readonly nameValues: NameValues
  readonly macros: readonly FrozenMacro[]
  /** The number that the run will get, if no other comes between. */
  readonly runNumber: number
  /** Numbers that pictures get for the first time. */
  readonly newNumbers: readonly PictureNumber[]
  /** What the macros ask before a run. */
  readonly questions: readonly Question[]
}

export interface PreflightWishes {
  readonly answers?: Answers
  /** Pictures handed in, instead of those of the intake. */
  readonly files?: readonly string[]
  /** Steps that are on no shelf, instead of the loop's macros. */
  readonly macros?: readonly FrozenMacro[]
}

/** Checks all of a loop before a run: what would happen, what would fail, and why. Keeps what it measures of the set, and writes nothing else. */
export async function preflight(
  context: Context,
  unanswered: Loop,
  { answers = {}, files, macros: given }: PreflightWishes = {},
  watcher: Watcher = {},
): Promise<Preflight> {
  const loop = answerFolders(unanswered, answers)
  const problems: Problem[] = []
  const add: AddProblem = (area, blocks, sentence, more) => void problems.push({ area, blocks, sentence, ...more })
  const { found, leftOut } = files
    ? { found: await handedIn(context, files, add), leftOut: nothingLeftOut }
    : await findPictures(context, loop, add, watcher)
  await measureSet(context, loop, { found, isWhole: files === undefined }, watcher)
  const open = given ?? frozenMacros(context, loop, add)
  const questions = questionsFor(loop, open)
  const macros = open.map((macro) => ({ ...macro, steps: answerSteps(macro.steps, answers) }))
  if (!files) remarkSet(context, loop, found.length, add)
  const known = await factsOf(context, found, watcher)
  const touched = await matchTouchUps(context, loop, found)
  // Pictures that were handed in are not all that the loop has.
  remarkTouchUps({ context, loop, macros }, files ? { ...touched, gone: [] } : touched, add)
  const runNumber = store.nextRunNumber(context.db)
  const deliveries = checkDeliveries(context, loop, runNumber, add)
  const ground = {
    ...{ loop, macros, deliveries, runNumber, answers },
    numbers: numbersOf(context.db, loop.id, loop.numberSet),
    touchUps: touched.byPath,
    reserved: reservedNames(context.db),
    lastDelivered: (path: string) => lastDelivered(context.db, loop.id, path),
  }
  const { pictures, newNumbers, keptNumbers, nameValues } = await foresee(ground, known, watcher)
  remarkNames(loop, pictures, add)
  remarkNumbers(loop, { newNumbers, keptNumbers }, add)
  remarkEnlarged(pictures, add)
  remarkShort(pictures, add)
  remarkFlatRaw(known, macros, add)
  remarkShapes(loop, pictures, macros, add)
  checkIdleMacros(loop, macros, add)
  await checkKeptFiles(context, macros, add)
  const estimatedBytes = estimateBytes(pictures, deliveries)
  const freeBytes = await checkPlaces(
    deliveries.map(({ delivery }) => endFolder(delivery)),
    estimatedBytes,
    add,
  )
  const unreadable = pictures.filter((picture) => picture.error).length
  if (unreadable > 0) add('pictures', false, `${counted(unreadable, 'picture')} can't be read and will be left out; all others go through.`)
  const totals = {
    pictures: found.length,
    folders: new Set(found.map((picture) => dirname(picture.path))).size,
    bytes: found.reduce((sum, picture) => sum + picture.sizeBytes, 0),
    unreadable,
    estimatedBytes,
    freeBytes,
    ...kindsAndSizes(known),
  }
  return { problems, pictures, totals, macros, questions, catches: catchesOf(macros, known), leftOut, nameValues, runNumber, newNumbers }
}

const readable = (known: readonly KnownPicture[]): { facts: PictureFacts; name: string }[] =>
  known.flatMap(({ picture, facts }) => (facts instanceof AppError ? [] : { facts, name: basename(picture.path) }))

function kindsAndSizes(known: readonly KnownPicture[]): Pick<Preflight['totals'], 'kinds' | 'sizes'> {
  const kinds: Record<string, number> = {}
  let sizes: [Size, Size] | null = null
  for (const { facts } of readable(known)) {
    kinds[facts.format] = (kinds[facts.format] ?? 0) + 1
    const [min, max]: [Size, Size] = sizes ?? [facts.size, facts.size]
    sizes = [pixelsOf(facts.size) < pixelsOf(min) ? facts.size : min, pixelsOf(facts.size) > pixelsOf(max) ? facts.size : max]
  }
  return { kinds, sizes }
}

const pixelsOf = ({ width, height }: Size): number => width * height

/** What each step with conditions means of these pictures. */
function catchesOf(macros: readonly FrozenMacro[], known: readonly KnownPicture[]): Catch[] {
  const subjects = readable(known)
  const of = subjects.length
  const within = (macroId: string, steps: readonly Step[], outer: readonly Condition[]): Catch[] =>
    steps.flatMap((step) => {
      const own = step.when ?? []
      const all = [...outer, ...own]
      const inner = within(macroId, innerSteps(step), all)
      if (!step.enabled || own.length === 0) return step.enabled ? inner : []
      const pictures = subjects.filter((subject) => all.every((condition) => holds(condition, subject))).length
      return [{ macroId, operation: step.operation, when: all.map(describeCondition).join(' and '), pictures, of }, ...inner]
    })
  return macros.flatMap(({ macroId, steps }) => within(macroId, steps, []))
}

/** What is to be said of pictures that have something of their own. */
function remarkTouchUps(
  { context, loop, macros }: { context: Context; loop: Loop; macros: readonly FrozenMacro[] },
  { byPath, changed, gone }: MatchedTouchUps,
  add: AddProblem,
): void {
  const losing = [...byPath].map(([path, touchUp]) => ({ path, steps: lostSteps(macros, touchUp) })).filter(({ steps }) => steps.length > 0)
  const lost = losing.map(({ path }) => basename(path))
  const steps = losing.flatMap((one) => one.steps)
  if (lost.length > 0)
    add(
      'pictures',
      false,
      `${counted(lost.length, 'picture')} ${lost.length === 1 ? 'has' : 'have'} something of ${lost.length === 1 ? 'its' : 'their'} own at a step that the macro has no more: ${named(lost)}. It is kept, and does nothing until the step is back.`,
      {
        mend: olderRevision(context, loop, steps),
        remedy: { label: lost.length === 1 ? 'Drop it' : `Drop it for all ${lost.length}`, does: 'dropLostSteps' },
      },
    )
  if (changed.length > 0)
    add('pictures', false, `${counted(changed.length, 'file')} changed since touched up: ${named(changed)}. Look whether that still fits.`)
  if (gone.length > 0)
    add(
      'pictures',
      false,
      `${counted(gone.length, 'picture')} with something of ${gone.length === 1 ? 'its' : 'their'} own ${gone.length === 1 ? 'is' : 'are'} not in the intake any more: ${named(gone)}. It is kept for when ${gone.length === 1 ? 'it comes' : 'they come'} back.`,
    )
}

/** Staying with the newest revision of a macro that has all the steps that are missing, where there is one. */
function olderRevision({ db }: Context, loop: Loop, lost: readonly StepAddress[]): Mend | undefined {
  const macroId = lost[0]?.macroId
  if (macroId === undefined || lost.some((address) => address.macroId !== macroId)) return undefined
  const name = findMacro(db, macroId, null)?.name
  const older = listRevisions(db, macroId).find((revision) => lost.every(({ stepId }) => revision.steps.some(({ id }) => id === stepId)))
  if (!older || !name) return undefined
  const macros = loop.macros.map((use) => (use.macroId === macroId ? { ...use, revision: older.revision } : use))
  return { label: `Stay with r${older.revision} of ${name}`, change: { macros } }
}

/** The list of a run as it is frozen: every picture with the names it will get, or why it is left out. */
export function freeze(check: Preflight): store.FrozenItem[] {
  return check.pictures.map(({ sourcePath, relativePath, sizeBytes, modifiedMs, sizeBefore, targets, touchUp, error, skip }) => ({
    sourcePath,
    relativePath,
    sizeBytes,
    ...sizeBefore,
    modifiedMs,
    touchUp,
    targets: targets.map(({ deliveryId, path, replaces }) => ({ deliveryId, path, replaces })),
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
