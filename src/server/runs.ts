import { randomUUID } from 'node:crypto'
import { AppError, errorSentence } from '@/core/errors'
import type { Loop } from '@/core/loop'
import { isOver, type RunTotals } from '@/core/run'
import { lastBeat } from '@/db/queue'
import * as store from '@/db/runs'
import type { Context } from './context'
import { freeze, makeDeliveryFolders, preflight } from './preflight'
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

/** Starts a loop: checks it, freezes its list, macros and names, and puts the run in line. @throws AppError `loopNotReady` */
export async function startRun(context: Context, loop: Loop): Promise<RunSummary> {
  const check = await preflight(context, loop)
  const blocking = check.problems.find((problem) => problem.blocks)
  if (blocking) throw new AppError('loopNotReady', { loop: loop.name, problem: blocking.sentence })
  await makeDeliveryFolders(context, loop)
  const id = randomUUID()
  const deliveries = loop.deliveries.map((delivery) => ({ ...delivery, folder: context.roots.check(delivery.folder) }))
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
