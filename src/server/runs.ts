import { randomUUID } from 'node:crypto'
import { statSync } from 'node:fs'
import { AppError, errorSentence } from '@/core/errors'
import { completeDelivery, type Delivery, type Loop } from '@/core/loop'
import { isOver, type RunTotals } from '@/core/run'
import { lastBeat } from '@/db/queue'
import * as store from '@/db/runs'
import type { FrozenMacro } from '@/db/schema'
import { type Context, triesFolder } from './context'
import { freeze, makeDeliveryFolders, type Preflight, type PreflightWishes, type Problem, preflight } from './preflight'
import { marksOfRun, originalsStatement } from './report'

/** Silence longer than this means that the runner is away. */
const runnerAwayMs = 8_000

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
}

/** The list as it was wished for. */
function chosen(context: Context, loop: Loop, check: Preflight, { only = 'all', failedOf }: RunWishes): Preflight {
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
  const known = stillDelivered(context, loop, check)
  return { ...check, pictures: check.pictures.map((picture) => (known.has(sourceKey(picture)) ? { ...picture, skip: true } : picture)) }
}

/** A source as it was: another size or time is another picture. */
const sourceKey = (picture: { readonly sourcePath: string; readonly sizeBytes: number; readonly modifiedMs: number }): string =>
  `${picture.sizeBytes}:${picture.modifiedMs}:${picture.sourcePath}`

/** All that decides what a run makes of a source: steps and deliveries, without what only people read. */
const makingOf = (macros: readonly FrozenMacro[], deliveries: readonly Delivery[]): string =>
  JSON.stringify([macros.map(({ steps }) => steps), deliveries.map(({ name: _, ...delivery }) => delivery)])

/** Sources that earlier runs of a loop have delivered. */
function deliveredBefore(
  { db }: Context,
  loop: Loop,
  counts: (run: store.StoredRun) => boolean,
  holds: (item: Pick<store.ItemWithResults, 'id'> & { readonly results: readonly store.BriefResult[] }) => boolean,
): ReadonlySet<string> {
  const runs = store.listRuns(db).filter((run) => run.loopId === loop.id && counts(run))
  const items = runs.flatMap((run) => store.listItemsBriefly(db, run.id))
  return new Set(items.filter((item) => item.state === 'done' && holds(item)).map(sourceKey))
}

/** Sources that were delivered in the same way, and whose files are still as they were delivered. */
function stillDelivered(context: Context, loop: Loop, check: Preflight): ReadonlySet<string> {
  const making = makingOf(check.macros, resolvedDeliveries(context, loop))
  return deliveredBefore(
    context,
    loop,
    (run) => makingOf(run.macros, run.deliveries.map(completeDelivery)) === making,
    (item) => item.results.every(({ targetPath, sizeBytes }) => sizeOf(targetPath) === sizeBytes),
  )
}

const sizeOf = (path: string): number | undefined => statSync(path, { throwIfNoEntry: false })?.size

const resolvedDeliveries = (context: Context, loop: Loop): Delivery[] =>
  loop.deliveries.map((delivery) => ({ ...delivery, folder: context.roots.check(delivery.folder) }))

/** Starts a loop: checks it, freezes its list, macros and names, and puts the run in line. @throws AppError `loopNotReady` */
export async function startRun(context: Context, loop: Loop, wishes: RunWishes = {}): Promise<RunSummary> {
  const check = await preflight(context, loop, wishes)
  refuseBlocked(loop, check.problems)
  return putInLine(context, loop, chosen(context, loop, check, wishes), wishes)
}

/**
 * Starts a loop by itself, with the defaults of what its macros ask, over the sources that no earlier run of it has
 * delivered; undefined where there are none. @throws AppError `loopNotReady`
 */
export async function startOverNew(context: Context, loop: Loop): Promise<RunSummary | undefined> {
  const check = await preflight(context, loop)
  refuseBlocked(
    loop,
    check.problems.filter((problem) => !problem.nothingToDo),
  )
  const tries = triesFolder(context.dataFolder)
  const known = deliveredBefore(
    context,
    loop,
    (run) => !run.deliveries.some(({ folder }) => folder.startsWith(tries)),
    () => true,
  )
  const pictures = check.pictures.filter((picture) => !known.has(sourceKey(picture)))
  if (!pictures.some(({ error, skip }) => !error && !skip)) return undefined
  return putInLine(context, loop, { ...check, pictures })
}

function refuseBlocked(loop: Loop, problems: readonly Problem[]): void {
  const blocking = problems.find((problem) => problem.blocks)
  if (blocking) throw new AppError('loopNotReady', { loop: loop.name, problem: blocking.sentence })
}

async function putInLine(
  context: Context,
  loop: Loop,
  check: Preflight,
  { startAt, isFirst }: Pick<RunWishes, 'startAt' | 'isFirst'> = {},
): Promise<RunSummary> {
  await makeDeliveryFolders(context, loop)
  const id = randomUUID()
  const deliveries = resolvedDeliveries(context, loop)
  const run = { id, loopId: loop.id, loopName: loop.name, macros: check.macros, deliveries, startAt: startAt ?? null, isFirst }
  store.insertRun(context.db, run, freeze(check), Date.now())
  return runSummary(context, id)
}

/** Runs that are not over, in the order of the queue, then the others, newest first. */
export function listRuns(context: Context): RunSummary[] {
  const runs = store.listRuns(context.db).map((run) => summarise(context, run))
  return runs.toSorted((a, b) => (a.turn ?? Number.POSITIVE_INFINITY) - (b.turn ?? Number.POSITIVE_INFINITY) || b.number - a.number)
}

export function runSummary(context: Context, id: string): RunSummary {
  const run = store.findRun(context.db, id)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  return summarise(context, run)
}

/** Runs that are over do not change any more, and counting their pictures takes time. */
const endedRuns = new Map<string, RunSummary>()
const mostEnded = 1000

function summarise(context: Context, run: store.StoredRun): RunSummary {
  const key = `${run.id} ${run.finishedAt}`
  const known = endedRuns.get(key)
  if (known) return known
  const summary = summariseNow(context, run)
  if (isOver(run.state) && summary.totals.working === 0) {
    if (endedRuns.size >= mostEnded) endedRuns.clear()
    endedRuns.set(key, summary)
  }
  return summary
}

function summariseNow({ db }: Context, run: store.StoredRun): RunSummary {
  const totals = store.runTotals(db, run.id)
  const open = totals.waiting + totals.working
  const rate = isOver(run.state) ? null : recentRate(db, run.id)
  const { id, number, loopId, loopName, state, createdAt, startAt, startedAt, finishedAt } = run
  return {
    ...{ id, number, loopId, loopName, state, createdAt, startedAt, finishedAt, totals },
    turn: isOver(state) ? null : store.queuedRuns(db).findIndex((queued) => queued.id === id) + 1,
    startAt: state === 'waiting' ? startAt : null,
    reason: run.reason && errorSentence(run.reason),
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    folders: run.deliveries.map((delivery) => delivery.folder),
    deliveredBytes: store.deliveredBytes(db, run.id),
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

export const isRunnerAway = ({ db }: Context): boolean => Date.now() - lastBeat(db) > runnerAwayMs

export const originalsStatementOf = ({ db }: Context, id: string): string => originalsStatement(store.comparedSources(db, id))
