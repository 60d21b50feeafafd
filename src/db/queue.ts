import { and, asc, count, eq, exists, inArray, isNull, lt, lte, max, ne, or, sql } from 'drizzle-orm'
import type { ErrorReport } from '@/core/errors'
import type { PictureLook } from '@/core/look'
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

/** So many runs share the workers; the others wait for their turn in the order of the queue. */
export const mostSharing = 3

/**
 * Takes the next waiting picture. The first runs of the queue that are due share the workers: the one with the fewest
 * pictures in work is served, and among equals the one that has waited longest. One synchronous immediate transaction,
 * so that no two runners can take the same; the fencing token rises with every claim.
 */
export function claimItem(db: Database, owner: string, now: number, leaseMs: number): Claim | undefined {
  const claimed = db.transaction(
    (tx) => {
      const run = nextServed(tx, now)
      const waiting = and(eq(items.runId, run?.id ?? ''), eq(items.state, 'waiting'))
      const item = run && tx.select().from(items).where(waiting).orderBy(asc(items.ordinal)).limit(1).get()
      if (!run || !item) return undefined
      const token = item.token + 1
      tx.update(items)
        .set({ state: 'working', owner, leaseUntil: now + leaseMs, token })
        .where(eq(items.id, item.id))
        .run()
      tx.update(runs)
        .set({ servedAt: lastServed(tx) + 1 })
        .where(eq(runs.id, run.id))
        .run()
      const targets = tx.select().from(results).where(eq(results.itemId, item.id)).all()
      return { run, item: { ...item, state: 'working' as const, owner, token }, results: targets }
    },
    { behavior: 'immediate' },
  )
  if (claimed?.run.state === 'waiting') advanceRun(db, claimed.run.id, 'claimed', now)
  return claimed
}

/** Whose turn it is. */
function nextServed(db: Pick<Database, 'select'>, now: number): StoredRun | undefined {
  const itemsIn = (state: 'waiting' | 'working') =>
    db
      .select({ one: sql`1` })
      .from(items)
      .where(and(eq(items.state, state), eq(items.runId, runs.id)))
  const working = db
    .select({ value: count() })
    .from(items)
    .where(and(eq(items.state, 'working'), eq(items.runId, runs.id)))
  const sharing = db
    .select({ run: runs, working: sql<number>`(${working})` })
    .from(runs)
    .where(and(inArray(runs.state, ['waiting', 'running']), or(isNull(runs.startAt), lte(runs.startAt, now)), exists(itemsIn('waiting'))))
    .orderBy(asc(runs.place), asc(runs.number))
    .limit(mostSharing)
    .all()
  return sharing.toSorted((a, b) => a.working - b.working || a.run.servedAt - b.run.servedAt)[0]?.run
}

const lastServed = (db: Pick<Database, 'select'>): number =>
  db
    .select({ value: max(runs.servedAt) })
    .from(runs)
    .get()?.value ?? 0

export interface DeliveredResult {
  readonly resultId: number
  readonly targetPath: string
  readonly sizeBytes: number
  readonly hash: string
  readonly width: number
  readonly height: number
  readonly constants: readonly unknown[]
  readonly look: PictureLook
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

/** Puts all pictures in work back in line, whoever holds them. */
export function releaseItems(db: Database): void {
  db.update(items).set({ state: 'waiting', owner: null, leaseUntil: null }).where(eq(items.state, 'working')).run()
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
