import { AppError, errorSentence } from '@/base/errors'
import { lruCached } from '@/base/lru-cache'
import { completeDelivery } from '@/jobs/delivery'
import type { GatheredFile } from '@/jobs/gather'
import { leftOutSentences } from '@/jobs/left-out'
import { paceOf, secondsLeft } from '@/jobs/pace'
import { isOver, type Originals, type RunTotals, runsAPage } from '@/jobs/run'
import { completeSteps, type Step } from '@/macros/step'
import { someResults } from '@/store/delivered'
import { openPixels, recentlyFinished } from '@/store/pace'
import * as store from '@/store/runs'
import type { Context } from '../context'
import { endFolder } from '../pages/work'
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
  /** Files of pages that it made. */
  readonly gathered: readonly GatheredFile[]
  readonly totals: RunTotals
  readonly originals: Originals
  /** It only shows what a loop would make of a few pictures. */
  readonly isTry: boolean
  /** A few of its delivered files, by the number of their result. */
  readonly shown: readonly number[]
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
  const pace = isOver(run.state) ? null : paceOf(recentlyFinished(db, run.id, paceWindow))
  const { id, number, loopId, loopName, state, createdAt, startAt, startedAt, finishedAt, deliveredBytes } = run
  return {
    ...{ id, number, loopId, loopName, state, createdAt, startedAt, finishedAt, deliveredBytes },
    totals: { waiting, working, done, failed, skipped },
    originals: { compared: run.compared, changed: run.changed },
    isTry: run.isTry,
    shown: done > 0 ? someResults(db, id, shownPictures) : [],
    turn: isOver(state) ? null : queue.findIndex((queued) => queued.id === id) + 1,
    startAt: state === 'waiting' ? startAt : null,
    reason: run.reason && errorSentence(run.reason),
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    folders: run.deliveries.map((delivery) => endFolder(completeDelivery(delivery))),
    gathered: run.gathered,
    rate: pace?.picturesPerSecond ?? null,
    secondsLeft: pace && open > 0 ? secondsLeft(pace, pixelsLeft(db, run.id, open)) : null,
  }
}

/** Enough to know a run again by. */
const shownPictures = 4

/** Pace over this many of the newest pictures: long enough to be steady, short enough to follow a change. */
const paceWindow = 20
/** What is left of a long run is counted so often; in between the mean picture stands for all. */
const countedForMs = 15_000

const meanPixels = new Map<string, number>()
/** Runs at work at once, and more. */
const keptMeans = 50

/** Of so many pictures that are not yet through. */
function pixelsLeft(db: Context['db'], runId: string, open: number): number {
  const round = Math.floor(Date.now() / countedForMs)
  return open * lruCached(meanPixels, `${runId} ${round}`, keptMeans, () => openPixels(db, runId) / open)
}

export function runResults(context: Context, id: string): RunResultRow[] {
  const items = store.listItemsBriefly(context.db, id)
  const marksOf = marksOfRun(context, items)
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
