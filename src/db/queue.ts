import { and, asc, eq, inArray, lt, ne, sql } from 'drizzle-orm'
import type { ErrorReport } from '@/core/errors'
import type { Database } from './database'
import { addEvent } from './events'
import { advanceRun, type StoredItem, type StoredResult, type StoredRun } from './runs'
import { items, results, runners, runs } from './schema'

/** A claimed picture: everything a worker needs, and the token its answer must carry. */
export interface Claim {
  readonly run: StoredRun
  readonly item: StoredItem
  readonly results: readonly StoredResult[]
}

/**
 * Takes the next waiting picture of the oldest run. One synchronous immediate transaction, so that no two runners
 * can take the same; the fencing token rises with every claim.
 */
export function claimItem(db: Database, owner: string, now: number, leaseMs: number): Claim | undefined {
  const claimed = db.transaction(
    (tx) => {
      const next = tx
        .select({ item: items, run: runs })
        .from(items)
        .innerJoin(runs, eq(runs.id, items.runId))
        .where(and(eq(items.state, 'waiting'), inArray(runs.state, ['waiting', 'running'])))
        .orderBy(asc(runs.number), asc(items.ordinal))
        .limit(1)
        .get()
      if (!next) return undefined
      const token = next.item.token + 1
      tx.update(items)
        .set({ state: 'working', owner, leaseUntil: now + leaseMs, token })
        .where(eq(items.id, next.item.id))
        .run()
      const targets = tx.select().from(results).where(eq(results.itemId, next.item.id)).all()
      return { run: next.run, item: { ...next.item, state: 'working' as const, owner, token }, results: targets }
    },
    { behavior: 'immediate' },
  )
  if (claimed?.run.state === 'waiting') advanceRun(db, claimed.run.id, 'claimed', now)
  return claimed
}

export interface DeliveredResult {
  readonly resultId: number
  readonly targetPath: string
  readonly sizeBytes: number
  readonly hash: string
  readonly width: number
  readonly height: number
  readonly constants: readonly unknown[]
}

export interface ItemOutcome {
  readonly state: 'done' | 'failed' | 'skipped'
  readonly milliseconds: number
  readonly sourceHash?: string
  readonly sourceUnchanged?: boolean
  readonly width?: number
  readonly height?: number
  readonly format?: string
  readonly error?: ErrorReport
  readonly delivered: readonly DeliveredResult[]
}

const held = (id: number, token: number) => and(eq(items.id, id), eq(items.token, token), eq(items.state, 'working'))

/** Writes a picture's outcome if the claim still holds; an answer that comes too late changes nothing: false. */
export function finishItem(db: Database, item: Pick<StoredItem, 'id' | 'token' | 'runId'>, outcome: ItemOutcome, now: number): boolean {
  const { delivered, ...values } = outcome
  return db.transaction(
    (tx) => {
      const changed = tx
        .update(items)
        .set({ ...values, finishedAt: now, owner: null, leaseUntil: null })
        .where(held(item.id, item.token))
        .run()
      if (changed.changes === 0) return false
      for (const { resultId, ...result } of delivered) tx.update(results).set(result).where(eq(results.id, resultId)).run()
      addEvent(tx, item.runId, now)
      return true
    },
    { behavior: 'immediate' },
  )
}

/** Puts a claimed picture back in line, counting why. */
export function returnItem(db: Database, item: Pick<StoredItem, 'id' | 'token'>, why: 'crashes' | 'interruptions' | 'pause'): void {
  const counted = why === 'pause' ? {} : { [why]: sql`${items[why]} + 1` }
  db.update(items)
    .set({ state: 'waiting', owner: null, leaseUntil: null, ...counted })
    .where(held(item.id, item.token))
    .run()
}

/** Prolongs the leases of all that an owner still works on. */
export function renewLeases(db: Database, owner: string, leaseUntil: number): void {
  db.update(items)
    .set({ leaseUntil })
    .where(and(eq(items.owner, owner), eq(items.state, 'working')))
    .run()
}

/** Pictures that a runner holds which is gone: its lease has run out, or it is known to be dead. */
export function lostItems(db: Database, now: number, deadOwners: readonly string[]): StoredItem[] {
  const working = db.select().from(items).where(eq(items.state, 'working')).all()
  return working.filter((item) => (item.leaseUntil ?? 0) < now || deadOwners.includes(item.owner ?? ''))
}

/** Runs in work of which no picture is left to do. */
export function exhaustedRuns(db: Database): StoredRun[] {
  const open = db
    .selectDistinct({ runId: items.runId })
    .from(items)
    .where(inArray(items.state, ['waiting', 'working']))
    .all()
  const openIds = new Set(open.map((row) => row.runId))
  return db
    .select()
    .from(runs)
    .where(inArray(runs.state, ['waiting', 'running']))
    .all()
    .filter((run) => !openIds.has(run.id))
}

export function beat(db: Database, runner: { id: string; processId: number }, now: number): void {
  db.insert(runners)
    .values({ ...runner, startedAt: now, beatAt: now })
    .onConflictDoUpdate({ target: runners.id, set: { beatAt: now } })
    .run()
}

export const otherRunners = (db: Database, id: string): (typeof runners.$inferSelect)[] =>
  db.select().from(runners).where(ne(runners.id, id)).all()

export function forgetRunners(db: Database, silentSince: number): void {
  db.delete(runners).where(lt(runners.beatAt, silentSince)).run()
}

/** When a runner last gave a sign of life. */
export const lastBeat = (db: Database): number =>
  db
    .select({ value: sql<number>`coalesce(max(${runners.beatAt}), 0)` })
    .from(runners)
    .get()?.value ?? 0
