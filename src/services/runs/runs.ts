import { createHash, randomUUID } from 'node:crypto'
import { stat } from 'node:fs/promises'
import { AppError, errorSentence } from '@/base/errors'
import { completeDelivery, type Delivery } from '@/jobs/delivery'
import { leftOutSentences } from '@/jobs/left-out'
import type { Loop } from '@/jobs/loop'
import { isOver, type RunTotals, runsAPage } from '@/jobs/run'
import { completeSteps, type Step } from '@/macros/step'
import * as store from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import { type Context, triesFolder } from '../context'
import type { ForeseenPicture } from '../preflight/foresee'
import { tellEvery, type Watcher } from '../preflight/intake'
import { freeze, makeDeliveryFolders, type Preflight, type PreflightWishes, preflight } from '../preflight/preflight'
import type { Problem } from '../preflight/problems'
import { marksOfRun, originalsStatement } from './report'

export interface RunSummary {
  readonly id: string
  readonly number: number
  readonly loopId: string
  readonly loopName: string
  readonly state: store.StoredRun['state']
  /** Why it is paused, in words. */
  readonly reason: string | null
  readonly macros: readonly { readonly name: string; readonly revision: number }[]
  readonly folders: readonly string[]
  readonly totals: RunTotals
  readonly createdAt: number
  /** Its place in the queue, counted from 1; null once it is over. */
  readonly turn: number | null
  /** It waits for this moment. */
  readonly startAt: number | null
  readonly startedAt: number | null
  readonly finishedAt: number | null
  readonly deliveredBytes: number
  /** Pictures a second over the last ones, or null before there are any. */
  readonly rate: number | null
  readonly secondsLeft: number | null
}

export interface RunResultRow {
  readonly itemId: number
  readonly sourcePath: string
  readonly relativePath: string
  readonly state: store.StoredItem['state']
  readonly error: string | null
  /** What should be known of it though it was delivered. */
  readonly remarks: readonly string[]
  readonly sizeBefore: string | null
  readonly sourceBytes: number
  readonly sourceUnchanged: boolean | null
  readonly milliseconds: number | null
  readonly results: readonly {
    readonly id: number
    readonly path: string
    readonly bytes: number | null
    readonly width: number | null
    readonly height: number | null
    /** What stands out about it among the others of this delivery, in words. */
    readonly marks: readonly string[]
  }[]
}

/** Which pictures a run takes, what was answered before it, and when it may start. */
export interface RunWishes extends PreflightWishes {
  /** all: every picture. changed: only those that are new or changed, or whose macros or deliveries have changed, since they were delivered. */
  readonly only?: 'all' | 'changed'
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
  context: Context,
  loop: Loop,
  check: Preflight,
  { only = 'all', failedOf }: RunWishes,
  watcher: Watcher,
): Promise<Preflight> {
  if (failedOf) {
    const again = new Set(
      store
        .listItemsBriefly(context.db, runSummary(context, failedOf).id)
        .filter(({ state }) => state === 'failed' || state === 'skipped')
        .map(({ sourcePath }) => sourcePath),
    )
    return { ...check, pictures: check.pictures.filter(({ sourcePath }) => again.has(sourcePath)) }
  }
  if (only === 'all') return check
  const pictures: ForeseenPicture[] = []
  const isDelivered = stillDelivered(context, loop, check)
  for (const picture of check.pictures) {
    if (pictures.length % tellEvery === 0) watcher.onProgress?.({ stage: 'foreseeing', done: pictures.length, of: check.pictures.length })
    pictures.push((await isDelivered(picture)) ? { ...picture, skip: true } : picture)
  }
  return { ...check, pictures }
}

/** A source as it was: another size or time is another picture. */
const isSame = (a: Pick<ForeseenPicture, 'sizeBytes' | 'modifiedMs'>, b: Pick<ForeseenPicture, 'sizeBytes' | 'modifiedMs'>): boolean =>
  a.sizeBytes === b.sizeBytes && a.modifiedMs === b.modifiedMs

/** All that decides what a run makes of a source: steps as they read now, and deliveries, without what only people read, as a hash. */
const makingOf = (macros: readonly FrozenMacro[], deliveries: readonly Delivery[]): string =>
  createHash('sha256')
    .update(JSON.stringify([macros.map(({ steps }) => completeSteps(steps)), deliveries.map(({ name: _, ...delivery }) => delivery)]))
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
    for (const delivered of store.deliveriesOf(context.db, loop.id, picture.sourcePath, making)) {
      if (!isSame(delivered, picture)) continue
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
    store
      .deliveriesOf(db, loop.id, picture.sourcePath)
      .some((delivered) => isSame(delivered, picture) && !delivered.results.some(({ path }) => path.startsWith(tries)))
}

const resolvedDeliveries = (context: Context, loop: Loop): Delivery[] =>
  loop.deliveries.map((delivery) => ({ ...delivery, folder: context.roots.check(delivery.folder) }))

/** How often names and numbers are chosen anew because another run was put in line meanwhile. */
const maxRounds = 5

/**
 * Starts a loop: checks it, freezes its list, macros and names, and puts the run in line.
 * @throws AppError `loopNotReady`
 */
export async function startRun(context: Context, loop: Loop, wishes: RunWishes = {}, watcher: Watcher = {}): Promise<RunSummary> {
  const run = await inRounds(async () => {
    const check = await preflight(context, loop, wishes, watcher)
    refuseBlocked(loop, check.problems)
    return putInLine(context, loop, await chosen(context, loop, check, wishes, watcher), wishes)
  })
  if (!run) throw new AppError('tooBusy')
  return run
}

async function inRounds<T>(work: () => Promise<T | undefined>): Promise<T | undefined> {
  for (let round = 0; round < maxRounds; round++) {
    const done = await work()
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
  { startAt, isFirst, isTry = false }: Pick<RunWishes, 'startAt' | 'isFirst' | 'isTry'> = {},
): Promise<RunSummary | undefined> {
  await makeDeliveryFolders(context, loop)
  const id = randomUUID()
  const deliveries = resolvedDeliveries(context, loop)
  const run = {
    ...{ id, loopId: loop.id, loopName: loop.name, macros: check.macros, deliveries, startAt: startAt ?? null, isFirst },
    making: makingOf(check.macros, deliveries),
    leftOut: check.leftOut,
    damaged: loop.intake.damaged,
    number: check.runNumber,
    // A try shows what a run would make of a few pictures; it takes no numbers.
    numbers: isTry ? [] : check.newNumbers,
  }
  return store.insertRun(context.db, run, freeze(check), Date.now()) ? runSummary(context, id) : undefined
}

export interface RunsPage {
  readonly runs: readonly RunSummary[]
  /** Older ones: ask for those before this number; null where there are none. */
  readonly before: number | null
}

/** Runs that are not over, in the order of the queue, then the newest of the others; with `before`, older ones of these. */
export function listRuns(context: Context, before?: number): RunsPage {
  const open = before === undefined ? store.queuedRuns(context.db) : []
  const ended = store.endedRuns(context.db, before ?? Number.MAX_SAFE_INTEGER, runsAPage + 1)
  const shown = ended.slice(0, runsAPage)
  const runs = [...open, ...shown].map((run) => summarise(context, run, open))
  return { runs, before: ended.length > runsAPage ? (shown.at(-1)?.number ?? null) : null }
}

/** The last run of each loop, by loop. */
export function lastRuns(context: Context): Record<string, RunSummary> {
  const queue = store.queuedRuns(context.db)
  return Object.fromEntries(store.lastOfLoops(context.db).map((run) => [run.loopId, summarise(context, run, queue)]))
}

/** What a run put its pictures through, as it was frozen. */
export interface RunSteps {
  readonly steps: readonly Step[]
  /** The macro, where there is just one. */
  readonly macroId: string | null
}

export function runSteps({ db }: Context, id: string): RunSteps {
  const run = store.findRun(db, id)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  const [first] = run.macros
  return {
    steps: run.macros.flatMap(({ steps }) => completeSteps(steps)),
    macroId: run.macros.length === 1 && first ? first.macroId : null,
  }
}

export function runSummary(context: Context, id: string): RunSummary {
  const run = store.findRun(context.db, id)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  return summarise(context, run, store.queuedRuns(context.db))
}

function summarise({ db }: Context, run: store.StoredRun, queue: readonly store.StoredRun[]): RunSummary {
  const { waiting, working, done, failed, skipped } = run
  const open = waiting + working
  const rate = isOver(run.state) ? null : recentRate(db, run.id)
  const { id, number, loopId, loopName, state, createdAt, startAt, startedAt, finishedAt, deliveredBytes } = run
  return {
    ...{ id, number, loopId, loopName, state, createdAt, startedAt, finishedAt, deliveredBytes },
    totals: { waiting, working, done, failed, skipped },
    turn: isOver(state) ? null : queue.findIndex((queued) => queued.id === id) + 1,
    startAt: state === 'waiting' ? startAt : null,
    reason: run.reason && errorSentence(run.reason),
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    folders: run.deliveries.map((delivery) => delivery.folder),
    rate,
    secondsLeft: rate && open > 0 ? open / rate : null,
  }
}

/** Rate over this many of the newest pictures: long enough to be steady, short enough to follow a change. */
const rateWindow = 20

function recentRate(db: Context['db'], runId: string): number | null {
  const times = store.recentFinishTimes(db, runId, rateWindow)
  const [newest, oldest] = [times[0], times.at(-1)]
  if (newest === undefined || oldest === undefined || newest === oldest) return null
  return ((times.length - 1) / (newest - oldest)) * 1000
}

export function runResults({ db }: Context, id: string): RunResultRow[] {
  const items = store.listItemsBriefly(db, id)
  const marksOf = marksOfRun(items)
  return items.map((item) => ({
    itemId: item.id,
    sourcePath: item.sourcePath,
    relativePath: item.relativePath,
    state: item.state,
    error: item.error && errorSentence(item.error),
    remarks: (item.remarks ?? []).map(errorSentence),
    sizeBefore: item.width && item.height ? `${item.width} × ${item.height}` : null,
    sourceBytes: item.sizeBytes,
    sourceUnchanged: item.sourceUnchanged,
    milliseconds: item.milliseconds,
    results: item.results.map((result) => ({
      id: result.id,
      path: result.targetPath,
      bytes: result.sizeBytes,
      width: result.width,
      height: result.height,
      marks: marksOf(result),
    })),
  }))
}

/** Ends a run; pictures in work are finished, the rest is left out. */
export function stopRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'stop', Date.now())
  return runSummary(context, id)
}

/** Holds a run until somebody lets it go on; pictures in work are finished. */
export function pauseRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'pause', Date.now())
  return runSummary(context, id)
}

/** Takes a paused run up again. */
export function goOnWithRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'goOn', Date.now())
  return runSummary(context, id)
}

/** Lets a run change places with the one before it in the queue. */
export function moveRunUp(context: Context, id: string): RunSummary {
  store.moveUp(context.db, id, Date.now())
  return runSummary(context, id)
}

/** Lets a run that waits for its time start as soon as it is its turn. */
export function startRunNow(context: Context, id: string): RunSummary {
  store.startRunAt(context.db, id, null, Date.now())
  return runSummary(context, id)
}

/** A delivered file of a run. @throws AppError `notFound` while it is not delivered */
export function deliveredPath({ db }: Context, resultId: number): string {
  const found = store.findResult(db, resultId)
  if (!found?.result.hash) throw new AppError('notFound', { what: 'The delivered picture' })
  return found.result.targetPath
}

/** A run with its results and what is said of its sources. */
export interface RunDetail {
  readonly run: RunSummary
  readonly results: readonly RunResultRow[]
  /** `32 source files, all unchanged`. */
  readonly originals: string
  /** What else lay in the intake and was not taken, in sentences. */
  readonly leftOut: readonly string[]
}

export function runDetail(context: Context, id: string): RunDetail {
  const stored = store.findRun(context.db, id)
  if (!stored) throw new AppError('notFound', { what: 'The run' })
  return {
    run: runSummary(context, id),
    results: runResults(context, id),
    originals: originalsStatement(stored),
    leftOut: stored.leftOut ? leftOutSentences(stored.leftOut) : [],
  }
}
