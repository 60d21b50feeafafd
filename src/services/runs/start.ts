import { createHash, randomUUID } from 'node:crypto'
import { mkdir, stat } from 'node:fs/promises'
import { isDeepStrictEqual } from 'node:util'
import { AppError } from '@/base/errors'
import { completeDelivery, type Delivery } from '@/jobs/delivery'
import { answerFolders } from '@/jobs/folder-questions'
import type { Loop } from '@/jobs/loop'
import { isSameWork, type TouchUp, untouched } from '@/jobs/touch-up'
import { completeSteps } from '@/macros/step'
import { deliveriesOf } from '@/store/delivered'
import { findLoop, saveLoop as storeLoop } from '@/store/loops'
import * as store from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import { type Context, triesFolder } from '../context'
import { keepSetOf } from '../measure-set'
import { asCarriedOut, makingOfDelivery } from '../pages/work'
import type { ForeseenPicture } from '../preflight/foresee'
import { tellEvery, type Watcher } from '../preflight/intake'
import { differenceBetween, keptPreflight } from '../preflight/kept'
import { freeze, makeDeliveryFolders, type Preflight, type PreflightWishes, preflight } from '../preflight/preflight'
import type { Problem } from '../preflight/problems'
import { lastDeliveries } from './last-delivery'
import { type RunSummary, runSummary } from './summary'

/** Which pictures a run takes, what was answered before it, and when it may start. */
export interface RunWishes extends PreflightWishes {
  /**
   * all: every picture. changed: only those that are new or changed, or whose macros or deliveries have changed, since they were
   * delivered. touched: only those that were delivered and touched up since, each in the place of its own file.
   */
  readonly only?: 'all' | 'changed' | 'touched'
  /** Token of the check that the person saw: its list is taken over, or the difference is told. */
  readonly check?: string
  /** A check that was made just now, with the same answers and files. */
  readonly made?: Preflight
  /** Only the pictures that failed in this run, or were left out when it was stopped. */
  readonly failedOf?: string
  /** Not before this moment, ms since 1970. */
  readonly startAt?: number
  /** Goes to the front of the queue. */
  readonly isFirst?: boolean
  readonly isTry?: boolean
}

/** The list as it was wished for. */
async function chosen(
  check: Preflight,
  context: Context,
  loop: Loop,
  { only = 'all', failedOf, watcher }: RunWishes & { watcher: Watcher },
): Promise<Preflight> {
  if (failedOf) {
    const again = new Set(
      store
        .listItemsBriefly(context.db, runSummary(context, failedOf).id)
        .filter(({ state }) => state === 'failed' || state === 'skipped')
        .map(({ sourcePath }) => sourcePath),
    )
    return {
      ...check,
      pictures: amongAll(
        loop,
        check.pictures,
        check.pictures.filter(({ sourcePath }) => again.has(sourcePath)),
      ),
    }
  }
  if (only === 'all') return check
  if (only === 'touched')
    return { ...check, pictures: amongAll(loop, check.pictures, touchedSince(context, loop, check.pictures)), newNumbers: [] }
  const pictures: ForeseenPicture[] = []
  const isDelivered = stillDelivered(context, loop, check)
  for (const picture of check.pictures) {
    if (pictures.length % tellEvery === 0) watcher.onProgress?.({ stage: 'foreseeing', done: pictures.length, of: check.pictures.length })
    pictures.push((await isDelivered(picture)) ? { ...picture, skip: true } : picture)
  }
  return { ...check, pictures }
}

/** Pages hold the whole set: where a loop makes some, pictures that are not made anew are in the list all the same. */
function amongAll(loop: Loop, all: readonly ForeseenPicture[], some: readonly ForeseenPicture[]): readonly ForeseenPicture[] {
  if (!loop.deliveries.some(({ gather }) => gather)) return some
  const anew = new Map(some.map((picture) => [picture.sourcePath, picture]))
  return all.map((picture) => anew.get(picture.sourcePath) ?? { ...picture, error: null, skip: true })
}

/**
 * Pictures that were delivered and have something else of their own since, with the names they have: whatever patterns and numbers say
 * now, each comes in the place of its own file, and of no other.
 */
function touchedSince(context: Context, loop: Loop, pictures: readonly ForeseenPicture[]): ForeseenPicture[] {
  const delivered = lastDeliveries(context, loop.id)
  const gathers = new Set(loop.deliveries.flatMap(({ id, gather }) => (gather ? [id] : [])))
  return pictures.flatMap((picture) => {
    if (picture.error || picture.touchUp?.setAside) return []
    const last = delivered.get(picture.sourcePath)
    if (!last || hasSameWork(last, picture)) return []
    const targets = last.results.flatMap(({ deliveryId, path, hash }) => {
      const foreseen = picture.targets.find((target) => target.deliveryId === deliveryId)
      if (foreseen && gathers.has(deliveryId)) return [foreseen]
      return foreseen && hash ? [{ ...foreseen, path, numbered: null, skip: false, madeSafe: false, replaces: hash }] : []
    })
    return targets.length > 0 ? [{ ...picture, targets, skip: false }] : []
  })
}

/** A source as it was: another size or time is another picture. */
const isSame = (a: Pick<ForeseenPicture, 'sizeBytes' | 'modifiedMs'>, b: Pick<ForeseenPicture, 'sizeBytes' | 'modifiedMs'>): boolean =>
  a.sizeBytes === b.sizeBytes && a.modifiedMs === b.modifiedMs

interface Touched {
  readonly touchUp: TouchUp | null
}
const hasSameWork = (a: Touched, b: Touched): boolean => isSameWork(a.touchUp ?? untouched, b.touchUp ?? untouched)

/** All that decides what a run makes of a source: steps as they read now, and deliveries, without what only people read, as a hash. */
const makingOf = (macros: readonly FrozenMacro[], deliveries: readonly Delivery[]): string =>
  createHash('sha256')
    .update(JSON.stringify([macros.map(({ steps }) => completeSteps(steps)), deliveries.map(makingOfDelivery)]))
    .digest('hex')

/** Runs of older versions have not noted their making, or noted it of steps as they read then. */
function noteMissingMakings({ db }: Context, loop: Loop): void {
  for (const run of store.runsWithoutMaking(db, loop.id))
    store.noteMaking(db, run.id, makingOf(run.macros, run.deliveries.map(completeDelivery)))
}

/** Whether a source was delivered in the same way, and its files are still as they were delivered. */
function stillDelivered(context: Context, loop: Loop, check: Preflight): (picture: ForeseenPicture) => Promise<boolean> {
  noteMissingMakings(context, loop)
  const making = makingOf(check.macros, resolvedDeliveries(context, loop))
  return async (picture) => {
    for (const delivered of deliveriesOf(context.db, loop.id, picture.sourcePath, making)) {
      if (!isSame(delivered, picture) || !hasSameWork(delivered, picture)) continue
      const sizes = await Promise.all(delivered.results.map(async ({ path }) => (await stat(path).catch(() => undefined))?.size))
      if (delivered.results.every(({ sizeBytes }, i) => sizes[i] === sizeBytes)) return true
    }
    return false
  }
}

/** Whether a loop has delivered a source, in whatever way; tries do not count. */
function wasDelivered({ db, dataFolder }: Context, loop: Loop): (picture: ForeseenPicture) => boolean {
  const tries = triesFolder(dataFolder)
  return (picture) =>
    deliveriesOf(db, loop.id, picture.sourcePath).some(
      (delivered) => isSame(delivered, picture) && !delivered.results.some(({ path }) => path.startsWith(tries)),
    )
}

const resolvedDeliveries = (context: Context, loop: Loop): Delivery[] =>
  loop.deliveries.map((delivery) => ({ ...delivery, folder: context.roots.check(delivery.folder) }))

/**
 * The check that a run is made of: the one that its person saw, where that still holds.
 * @throws AppError `preflightMoved` where it does not, and would come out otherwise now
 */
async function checkFor(context: Context, loop: Loop, wishes: RunWishes, watcher: Watcher): Promise<Preflight> {
  const seen = wishes.check && !wishes.files ? await keptPreflight(context, loop, wishes.check, watcher) : undefined
  const isAnswered = Object.keys(wishes.answers ?? {}).length > 0
  if (seen?.isSame && !isAnswered) return seen.check
  const now = await preflight(context, loop, wishes, watcher)
  if (!seen || seen.isSame) return now
  // Answers go into names and sizes: for the comparison nothing is answered, as on the page.
  const difference = differenceBetween(seen.check, isAnswered ? await preflight(context, loop, {}, watcher) : now)
  if (difference) throw new AppError('preflightMoved', { difference })
  return now
}

/** How often names and numbers are chosen anew because another run was put in line meanwhile. */
const maxRounds = 5

/**
 * Starts a loop: checks it, freezes its list, macros and names, and puts the run in line.
 * @throws AppError `loopNotReady`, `preflightMoved`
 */
export async function startRun(context: Context, asked: Loop, wishes: RunWishes = {}, watcher: Watcher = {}): Promise<RunSummary> {
  const loop = answerFolders(asked, wishes.answers ?? {})
  const isMoved = !isDeepStrictEqual(loop, asked)
  const run = await inRounds(async (round) => {
    // What was seen of another folder says nothing of this one.
    const check =
      wishes.made && round === 0 ? wishes.made : await checkFor(context, loop, isMoved ? { ...wishes, check: undefined } : wishes, watcher)
    refuseBlocked(loop, check.problems)
    const list = await chosen(check, context, loop, { ...wishes, watcher })
    if (wishes.only === 'touched' && list.pictures.every(({ skip }) => skip))
      throw new AppError('loopNotReady', { loop: loop.name, problem: 'nothing was touched up since it was delivered.' })
    return putInLine(context, loop, list, wishes)
  })
  if (!run) throw new AppError('tooBusy')
  // The next run is asked from here. A loop that was changed meanwhile, or is kept nowhere, stays as it is.
  if (isMoved && findLoop(context.db, loop.id)) storeLoop(context.db, loop, Date.now())
  return run
}

async function inRounds<T>(work: (round: number) => Promise<T | undefined>): Promise<T | undefined> {
  for (let round = 0; round < maxRounds; round++) {
    const done = await work(round)
    if (done !== undefined) return done
  }
  return undefined
}

/**
 * Starts a loop by itself, with the defaults of what its macros ask, over the sources that no earlier run of it has
 * delivered; undefined where there are none. @throws AppError `loopNotReady`
 */
export async function startOverNew(context: Context, loop: Loop, watcher: Watcher = {}): Promise<RunSummary | undefined> {
  const started = await inRounds<RunSummary | 'nothing'>(async () => {
    const check = await preflight(context, loop, {}, watcher)
    refuseBlocked(
      loop,
      check.problems.filter((problem) => !problem.nothingToDo),
    )
    const isKnown = wasDelivered(context, loop)
    const pictures = check.pictures.filter((picture) => !isKnown(picture))
    if (!pictures.some(({ error, skip }) => !error && !skip)) return 'nothing'
    return putInLine(context, loop, { ...check, pictures })
  })
  return started === 'nothing' ? undefined : started
}

function refuseBlocked(loop: Loop, problems: readonly Problem[]): void {
  const blocking = problems.find((problem) => problem.blocks)
  if (blocking) throw new AppError('loopNotReady', { loop: loop.name, problem: blocking.sentence })
}

/** Undefined where another run was put in line since the check: names and numbers then have to be chosen anew. */
async function putInLine(
  context: Context,
  loop: Loop,
  check: Preflight,
  { startAt, isFirst, isTry = false, files, answers = {} }: Pick<RunWishes, 'startAt' | 'isFirst' | 'isTry' | 'files' | 'answers'> = {},
): Promise<RunSummary | undefined> {
  await makeDeliveryFolders(context, loop)
  const id = randomUUID()
  const resolved = resolvedDeliveries(context, loop)
  const deliveries = resolved.map((delivery, index) => asCarriedOut(delivery, context.dataFolder, check.runNumber, index))
  for (const { gather, folder } of deliveries) if (gather) await mkdir(folder, { recursive: true })
  const run = {
    ...{ id, loopId: loop.id, loopName: loop.name, macros: check.macros, deliveries, startAt: startAt ?? null, isFirst },
    making: makingOf(check.macros, resolved),
    leftOut: check.leftOut,
    isTry,
    answers,
    damaged: loop.intake.damaged,
    number: check.runNumber,
    // A try shows what a run would make of a few pictures; it takes no numbers.
    numbers: isTry ? [] : check.newNumbers,
  }
  if (!store.insertRun(context.db, run, freeze(check), Date.now())) return undefined
  if (!isTry && !files) keepSetOf(context, loop)
  return runSummary(context, id)
}
