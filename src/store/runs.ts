import { and, asc, desc, eq, getTableColumns, inArray, isNull, lt, max, sql } from 'drizzle-orm'
import type { ErrorReport } from '@/base/errors'
import type { GatheredFile } from '@/jobs/gather'
import { type ItemState, isOver, nextRunState, type RunEvent, type RunState } from '@/jobs/run'
import type { TouchUp } from '@/jobs/touch-up'
import type { Database } from './database'
import { addEvent } from './events'
import { keepNumbers, type PictureNumber } from './picture-numbers'
import { items, loops, results, runs } from './schema'

export type StoredRun = typeof runs.$inferSelect
export type StoredItem = typeof items.$inferSelect
export type StoredResult = typeof results.$inferSelect

/** A source picture frozen into a run, with the names its deliveries will get. */
export interface FrozenItem {
  readonly sourcePath: string
  readonly relativePath: string
  readonly sizeBytes: number
  readonly modifiedMs: number
  /** In pixels, where it is known. */
  readonly width?: number
  readonly height?: number
  readonly targets: readonly { readonly deliveryId: string; readonly path: string; readonly replaces?: string | null }[]
  /** What it has of its own; null for nothing. */
  readonly touchUp?: TouchUp | null
  /** Left out from the start, or known to fail. */
  readonly outcome?: { readonly state: Extract<ItemState, 'skipped' | 'failed'>; readonly error?: ErrorReport }
}

export type NewRun = Pick<StoredRun, 'id' | 'loopId' | 'loopName' | 'macros' | 'deliveries'> &
  Partial<Pick<StoredRun, 'startAt' | 'making' | 'leftOut' | 'damaged' | 'isTry' | 'answers'>> & {
    readonly isFirst?: boolean
    /** The number it was foreseen to get: its names were chosen with all earlier runs in view. */
    readonly number?: number
    /** Numbers of pictures that are counted for the first time. */
    readonly numbers?: readonly PictureNumber[]
  }

/**
 * Stores a run with its whole list; it waits for a runner from then on. False, and nothing is stored, where another run
 * came between: names and numbers then have to be chosen anew.
 */
export function insertRun(
  db: Database,
  { isFirst = false, number: foreseen, numbers = [], ...run }: NewRun,
  frozen: readonly FrozenItem[],
  now: number,
): boolean {
  return db.transaction(
    (tx) => {
      const number = nextRunNumber(tx)
      if (foreseen !== undefined && foreseen !== number) return false
      keepNumbers(tx, numbers)
      tx.insert(runs)
        .values({
          ...run,
          number,
          queuePosition: isFirst ? (queuedRuns(tx)[0]?.queuePosition ?? 1) - 1 : lastQueuePosition(tx) + 1,
          state: 'waiting',
          createdAt: now,
        })
        .run()
      frozen.forEach(({ targets, outcome, ...source }, ordinal) => {
        const over = outcome && { error: outcome.error, finishedAt: now }
        const item = tx
          .insert(items)
          .values({ runId: run.id, ordinal, ...source, state: outcome?.state ?? 'waiting', ...over })
          .returning()
          .get()
        for (const { deliveryId, path, replaces } of targets)
          tx.insert(results).values({ itemId: item.id, deliveryId, targetPath: path, replaces }).run()
      })
      addEvent(tx, run.id, now)
      return true
    },
    { behavior: 'immediate' },
  )
}

const lastQueuePosition = (db: Pick<Database, 'select'>): number =>
  db
    .select({ value: max(runs.queuePosition) })
    .from(runs)
    .get()?.value ?? 0

/** Runs that are not over, in the order of the queue. */
export const queuedRuns = (db: Pick<Database, 'select'>): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(inArray(runs.state, ['waiting', 'running', 'paused']))
    .orderBy(asc(runs.queuePosition), asc(runs.number))
    .all()

/** Changes places in the queue with the run before it; the first one stays. */
export function moveUp(db: Database, runId: string, now: number): void {
  db.transaction(
    (tx) => {
      const queue = queuedRuns(tx)
      const index = queue.findIndex((run) => run.id === runId)
      const [before, run] = [queue[index - 1], queue[index]]
      if (!before || !run) return
      tx.update(runs).set({ queuePosition: run.queuePosition }).where(eq(runs.id, before.id)).run()
      tx.update(runs).set({ queuePosition: before.queuePosition }).where(eq(runs.id, run.id)).run()
      for (const { id } of [before, run]) addEvent(tx, id, now)
    },
    { behavior: 'immediate' },
  )
}

/** Lets a run start at a time, or as soon as it is its turn (null). */
export function startRunAt(db: Database, runId: string, startAt: number | null, now: number): void {
  db.update(runs).set({ startAt }).where(eq(runs.id, runId)).run()
  addEvent(db, runId, now)
}

export const hasOpenRun = (db: Database, loopId: string): boolean => queuedRuns(db).some((run) => run.loopId === loopId)

/** Runs that are over, newest first, a page at a time: those before a number. */
export const endedRuns = (db: Database, before: number, max: number): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(and(inArray(runs.state, ['done', 'stopped']), lt(runs.number, before)))
    .orderBy(desc(runs.number))
    .limit(max)
    .all()

/** The newest run of each loop that is there; tries are none. */
export const lastOfLoops = (db: Database): StoredRun[] =>
  db
    .select({ run: runs })
    .from(loops)
    .innerJoin(
      runs,
      eq(
        runs.number,
        db
          .select({ value: max(runs.number) })
          .from(runs)
          .where(and(eq(runs.loopId, loops.id), eq(runs.isTry, false))),
      ),
    )
    .all()
    .map(({ run }) => run)

export const findRun = (db: Database, id: string): StoredRun | undefined => db.select().from(runs).where(eq(runs.id, id)).get()

export const findRunByNumber = (db: Database, number: number): StoredRun | undefined =>
  db.select().from(runs).where(eq(runs.number, number)).get()

export interface ItemWithResults extends StoredItem {
  readonly results: readonly StoredResult[]
}
/** A result without what was measured for it, which is much and seldom wanted. */
export type BriefResult = Omit<StoredResult, 'constants'>

/** All pictures of a run in their order, each with its results. */
export const listItems = (db: Database, runId: string): ItemWithResults[] =>
  joined(
    itemsOf(db, runId),
    db
      .select({ ...getTableColumns(results) })
      .from(results)
      .innerJoin(items, eq(items.id, results.itemId))
      .where(eq(items.runId, runId))
      .all(),
  )

/** The same without constants: for lists of ten thousand. */
export function listItemsBriefly(db: Database, runId: string): (StoredItem & { readonly results: readonly BriefResult[] })[] {
  const { constants: _, ...columns } = getTableColumns(results)
  const brief = db.select(columns).from(results).innerJoin(items, eq(items.id, results.itemId)).where(eq(items.runId, runId)).all()
  return joined(itemsOf(db, runId), brief)
}

const itemsOf = (db: Database, runId: string): StoredItem[] =>
  db.select().from(items).where(eq(items.runId, runId)).orderBy(asc(items.ordinal)).all()

function joined<R extends { readonly itemId: number }>(
  all: readonly StoredItem[],
  delivered: readonly R[],
): (StoredItem & { results: R[] })[] {
  const byItem = new Map<number, R[]>()
  for (const result of delivered) {
    const others = byItem.get(result.itemId)
    if (others) others.push(result)
    else byItem.set(result.itemId, [result])
  }
  return all.map((item) => ({ ...item, results: byItem.get(item.id) ?? [] }))
}

export const resultsOf = (db: Database, itemId: number): StoredResult[] => db.select().from(results).where(eq(results.itemId, itemId)).all()

export function findResult(db: Database, resultId: number): { item: StoredItem; result: StoredResult } | undefined {
  return db
    .select({ item: items, result: results })
    .from(results)
    .innerJoin(items, eq(items.id, results.itemId))
    .where(eq(results.id, resultId))
    .get()
}

/** Runs of a loop that were made before it was noted what decides about their results. */
export const runsWithoutMaking = (db: Database, loopId: string): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(and(eq(runs.loopId, loopId), isNull(runs.making)))
    .all()

/** Keeps which files of pages a run has made. */
export function noteGathered(db: Database, runId: string, gathered: readonly GatheredFile[], now: number): void {
  db.update(runs).set({ gathered }).where(eq(runs.id, runId)).run()
  addEvent(db, runId, now)
}

/** Runs of a loop before one that have made pages, newest first, as many as matter. */
export const gatheringRunsBefore = (db: Database, { loopId, number }: Pick<StoredRun, 'loopId' | 'number'>): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(and(eq(runs.loopId, loopId), lt(runs.number, number), eq(runs.isTry, false), sql`${runs.gathered} <> '[]'`))
    .orderBy(desc(runs.number))
    .limit(mostGatheringRuns)
    .all()
/** Of each further one, an earlier run has cleared what waited. */
const mostGatheringRuns = 20

export function noteMaking(db: Database, runId: string, making: string): void {
  db.update(runs).set({ making }).where(eq(runs.id, runId)).run()
}

/** Moves a run along its state machine; returns the new state, or undefined where the event has no place. */
export function advanceRun(
  db: Database,
  runId: string,
  event: RunEvent,
  now: number,
  reason: ErrorReport | null = null,
): RunState | undefined {
  return db.transaction(
    (tx) => {
      const run = tx.select().from(runs).where(eq(runs.id, runId)).get()
      const next = run && nextRunState(run.state, event)
      if (!run || !next) return undefined
      const times = {
        ...(run.startedAt === null && next === 'running' ? { startedAt: now } : {}),
        ...(isOver(next) ? { finishedAt: now } : {}),
      }
      tx.update(runs)
        .set({ state: next, reason, ...times })
        .where(eq(runs.id, runId))
        .run()
      if (next === 'stopped')
        tx.update(items)
          .set({ state: 'skipped', finishedAt: now })
          .where(and(eq(items.runId, runId), eq(items.state, 'waiting')))
          .run()
      addEvent(tx, runId, now)
      return next
    },
    { behavior: 'immediate' },
  )
}

/** Runs that a fault holds up. */
export const pausedRuns = (db: Database): StoredRun[] =>
  db.select().from(runs).where(eq(runs.state, 'paused')).orderBy(asc(runs.number)).all()

/** The number that the next run will get, unless another is started before it. */
export const nextRunNumber = (db: Pick<Database, 'select'>): number =>
  (db
    .select({ value: max(runs.number) })
    .from(runs)
    .get()?.value ?? 0) + 1
