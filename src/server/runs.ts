import { randomUUID } from 'node:crypto'
import { statSync } from 'node:fs'
import { AppError, errorSentence } from '@/core/errors'
import { completeDelivery, type Delivery, type Loop } from '@/core/loop'
import { isOver, type RunTotals } from '@/core/run'
import { lastBeat } from '@/db/queue'
import * as store from '@/db/runs'
import type { FrozenMacro } from '@/db/schema'
import type { Context } from './context'
import { freeze, makeDeliveryFolders, type Preflight, type PreflightWishes, preflight } from './preflight'
import { originalsStatement } from './report'

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
  readonly results: readonly {
    readonly id: number
    readonly path: string
    readonly bytes: number | null
    readonly width: number | null
    readonly height: number | null
  }[]
}

/** Which pictures a run takes, and what was answered before it. */
export interface RunWishes extends PreflightWishes {
  /** all: every picture. changed: only those that are new or changed, or whose macros or deliveries have changed, since they were delivered. */
  readonly only?: 'all' | 'changed'
  /** Only the pictures that failed in this run, or were left out when it was stopped. */
  readonly failedOf?: string
}

/** The list as it was wished for. */
function chosen(context: Context, loop: Loop, check: Preflight, { only = 'all', failedOf }: RunWishes): Preflight {
  if (failedOf) {
    const again = new Set(
      store
        .listItems(context.db, runSummary(context, failedOf).id)
        .filter(({ state }) => state === 'failed' || state === 'skipped')
        .map(({ sourcePath }) => sourcePath),
    )
    return { ...check, pictures: check.pictures.filter(({ sourcePath }) => again.has(sourcePath)) }
  }
  if (only === 'all') return check
  const known = deliveredBefore(context, loop, check)
  return { ...check, pictures: check.pictures.map((picture) => (known.has(sourceKey(picture)) ? { ...picture, skip: true } : picture)) }
}

/** A source as it was: another size or time is another picture. */
const sourceKey = (picture: { readonly sourcePath: string; readonly sizeBytes: number; readonly modifiedMs: number }): string =>
  `${picture.sizeBytes}:${picture.modifiedMs}:${picture.sourcePath}`

/** All that decides what a run makes of a source: steps and deliveries, without what only people read. */
const makingOf = (macros: readonly FrozenMacro[], deliveries: readonly Delivery[]): string =>
  JSON.stringify([macros.map(({ steps }) => steps), deliveries.map(({ name: _, ...delivery }) => delivery)])

/** Sources that an earlier run of the loop delivered in the same way, and whose files are still as they were delivered. */
function deliveredBefore(context: Context, loop: Loop, check: Preflight): ReadonlySet<string> {
  const making = makingOf(check.macros, resolvedDeliveries(context, loop))
  const known = new Set<string>()
  for (const run of store.listRuns(context.db)) {
    if (run.loopId !== loop.id || makingOf(run.macros, run.deliveries.map(completeDelivery)) !== making) continue
    for (const item of store.listItems(context.db, run.id))
      if (item.state === 'done' && item.results.every(({ targetPath, sizeBytes }) => sizeOf(targetPath) === sizeBytes))
        known.add(sourceKey(item))
  }
  return known
}

const sizeOf = (path: string): number | undefined => statSync(path, { throwIfNoEntry: false })?.size

const resolvedDeliveries = (context: Context, loop: Loop): Delivery[] =>
  loop.deliveries.map((delivery) => ({ ...delivery, folder: context.roots.check(delivery.folder) }))

/** Starts a loop: checks it, freezes its list, macros and names, and puts the run in line. @throws AppError `loopNotReady` */
export async function startRun(context: Context, loop: Loop, wishes: RunWishes = {}): Promise<RunSummary> {
  const check = chosen(context, loop, await preflight(context, loop, wishes), wishes)
  const blocking = check.problems.find((problem) => problem.blocks)
  if (blocking) throw new AppError('loopNotReady', { loop: loop.name, problem: blocking.sentence })
  await makeDeliveryFolders(context, loop)
  const id = randomUUID()
  const deliveries = resolvedDeliveries(context, loop)
  store.insertRun(context.db, { id, loopId: loop.id, loopName: loop.name, macros: check.macros, deliveries }, freeze(check), Date.now())
  return runSummary(context, id)
}

export const listRuns = (context: Context): RunSummary[] => store.listRuns(context.db).map((run) => summarise(context, run))

export function runSummary(context: Context, id: string): RunSummary {
  const run = store.findRun(context.db, id)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  return summarise(context, run)
}

function summarise({ db }: Context, run: store.StoredRun): RunSummary {
  const totals = store.runTotals(db, run.id)
  const open = totals.waiting + totals.working
  const rate = isOver(run.state) ? null : recentRate(db, run.id)
  const { id, number, loopId, loopName, state, createdAt, startedAt, finishedAt } = run
  return {
    ...{ id, number, loopId, loopName, state, createdAt, startedAt, finishedAt, totals },
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
  return store.listItems(db, id).map((item) => ({
    itemId: item.id,
    sourcePath: item.sourcePath,
    relativePath: item.relativePath,
    state: item.state,
    error: item.error && errorSentence(item.error),
    sizeBefore: item.width && item.height ? `${item.width} × ${item.height}` : null,
    sourceBytes: item.sizeBytes,
    sourceUnchanged: item.sourceUnchanged,
    results: item.results.map(({ id, targetPath, sizeBytes, width, height }) => ({
      id,
      path: targetPath,
      bytes: sizeBytes,
      width,
      height,
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

/** A delivered file of a run. @throws AppError `notFound` while it is not delivered */
export function deliveredPath({ db }: Context, resultId: number): string {
  const found = store.findResult(db, resultId)
  if (!found?.result.hash) throw new AppError('notFound', { what: 'The delivered picture' })
  return found.result.targetPath
}

export const isRunnerAway = ({ db }: Context): boolean => Date.now() - lastBeat(db) > runnerAwayMs

export const originalsStatementOf = ({ db }: Context, id: string): string => originalsStatement(store.listItems(db, id))
