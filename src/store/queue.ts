import { and, asc, eq, gt, inArray, isNull, lt, lte, max, ne, notInArray, or, sql } from 'drizzle-orm'
import type { ErrorReport } from '@/base/errors'
import { isOver } from '@/jobs/run'
import type { PictureTraits } from '@/pixels/traits'
import type { Database } from './database'
import { lastDelivered } from './delivered'
import { addEvent } from './events'
import { advanceRun, queuedRuns, type StoredItem, type StoredResult, type StoredRun } from './runs'
import { items, results, runners, runs } from './schema'

/** A claimed picture: everything a worker needs, and the token its answer must carry. */
export interface ClaimedItem {
  readonly run: StoredRun
  readonly item: StoredItem
  readonly results: readonly StoredResult[]
}

/** Whether somebody can work for a run; without it, for all. */
export type Suits = (run: StoredRun) => boolean
const all: Suits = () => true

/** How many runs share the workers; the others wait for their turn in the order of the queue. */
export const maxSharing = 3

/**
 * Takes the next waiting picture. One synchronous immediate transaction, so that no two runners can take the same; the
 * fencing token rises with every claim.
 * @param suits whether this owner can work for a run: others are passed over
 */
export const claimItem = (db: Database, owner: string, now: number, leaseMs: number, suits = all): ClaimedItem | undefined =>
  claimItems(db, owner, now, leaseMs, 1, suits)[0]

/** The same for several at once, in the order in which they would be taken one by one. */
export function claimItems(db: Database, owner: string, now: number, leaseMs: number, most: number, suits = all): ClaimedItem[] {
  return db.transaction(
    (tx) => {
      const { taken, lanes } = takeTurns(tx, now, most, suits)
      if (taken.length === 0) return []
      const ids = taken.map(({ item }) => item.id)
      tx.update(items)
        .set({ state: 'working', owner, leaseUntil: now + leaseMs, token: sql`${items.token} + 1` })
        .where(inArray(items.id, ids))
        .run()
      for (const { run, servedAt } of lanes)
        if (servedAt !== run.servedAt) tx.update(runs).set({ servedAt }).where(eq(runs.id, run.id)).run()
      // In the same transaction: a picture that was claimed and a run that could not be begun would be nobody's.
      const begun = new Set(taken.flatMap(({ run }) => (run.state === 'waiting' ? run.id : [])))
      for (const id of begun) advanceRun(db, id, 'claimed', now)
      const targets = targetsOf(tx, taken)
      return taken.map(({ run, item }, i) => ({
        run,
        item: { ...item, state: 'working' as const, owner, token: item.token + 1 },
        results: targets[i] ?? [],
      }))
    },
    { behavior: 'immediate' },
  )
}

/** A run that shares the workers, and the next of its pictures. */
interface Lane {
  readonly run: StoredRun
  readonly waiting: StoredItem[]
  working: number
  servedAt: number
}

/**
 * Whose turn it is, so many times: the first runs of the queue that are due share the workers, the one with the fewest
 * pictures in work is served, and among equals the one that has waited longest.
 */
function takeTurns(
  db: Pick<Database, 'select'>,
  now: number,
  most: number,
  suits: Suits,
): { readonly taken: readonly { readonly run: StoredRun; readonly item: StoredItem }[]; readonly lanes: readonly Lane[] } {
  const lanes = new Map<string, Lane>()
  const lanesOf = (): Lane[] => {
    const over = [...lanes.values()].filter(({ waiting }) => waiting.length === 0).map(({ run }) => run.id)
    return firstServed(db, now, suits, over).map((run) => {
      const lane = lanes.get(run.id) ?? { run, waiting: nextWaiting(db, run.id, most), working: run.working, servedAt: run.servedAt }
      lanes.set(run.id, lane)
      return lane
    })
  }
  const taken: { run: StoredRun; item: StoredItem }[] = []
  let sharing = lanesOf()
  let served = lastServed(db)
  while (taken.length < most && sharing.length > 0) {
    const lane = sharing.toSorted((a, b) => a.working - b.working || a.servedAt - b.servedAt)[0]
    const item = lane?.waiting.shift()
    if (lane && item) {
      lane.working++
      lane.servedAt = ++served
      taken.push({ run: lane.run, item })
    }
    // One that has nothing left makes room for the next of the queue.
    if (taken.length < most && lane?.waiting.length === 0) sharing = lanesOf()
  }
  return { taken, lanes: [...lanes.values()] }
}

const nextWaiting = (db: Pick<Database, 'select'>, runId: string, most: number): StoredItem[] =>
  db
    .select()
    .from(items)
    .where(and(eq(items.runId, runId), eq(items.state, 'waiting')))
    .orderBy(asc(items.ordinal))
    .limit(most)
    .all()

/** Where each of some pictures goes, with the file that each result may come in the place of. */
function targetsOf(
  db: Pick<Database, 'select'>,
  pictures: readonly { readonly run: StoredRun; readonly item: StoredItem }[],
): StoredResult[][] {
  const ids = pictures.map(({ item }) => item.id)
  const all = db.select().from(results).where(inArray(results.itemId, ids)).orderBy(asc(results.id)).all()
  const byItem = new Map<number, StoredResult[]>(ids.map((id) => [id, []]))
  for (const result of all) byItem.get(result.itemId)?.push(result)
  return pictures.map(({ run, item }) =>
    (byItem.get(item.id) ?? []).map((result) => ({ ...result, replaces: replacedBy(db, run, item, result) })),
  )
}

/**
 * The file that a result may come in the place of: what this loop made of the same picture. A run that stood before this
 * one in the queue may have put another there since the list was made.
 */
function replacedBy(db: Pick<Database, 'select'>, run: StoredRun, item: StoredItem, result: StoredResult): string | null {
  const delivery = run.deliveries.find(({ id }) => id === result.deliveryId)
  if (delivery?.whenThere !== 'replace') return result.replaces
  const own = lastDelivered(db, run.loopId, result.targetPath)
  return own?.sourcePath === item.sourcePath ? own.hash : result.replaces
}

/** The runs that share the workers of somebody now, but for some; each run of the queue is judged once at most. */
function firstServed(db: Pick<Database, 'select'>, now: number, suits: Suits, except: readonly string[] = []): StoredRun[] {
  const found: StoredRun[] = []
  const passed = [...except]
  while (found.length < maxSharing) {
    const next = firstDue(db, now, passed)
    if (next.length === 0) break
    found.push(...next.filter(suits))
    passed.push(...next.map(({ id }) => id))
  }
  return found.slice(0, maxSharing)
}

const firstDue = (db: Pick<Database, 'select'>, now: number, except: readonly string[]): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(
      and(
        inArray(runs.state, ['waiting', 'running']),
        or(isNull(runs.startAt), lte(runs.startAt, now)),
        gt(runs.waiting, 0),
        notInArray(runs.id, [...except]),
      ),
    )
    .orderBy(asc(runs.queuePosition), asc(runs.number))
    .limit(maxSharing)
    .all()

/** Those of some runs of which somebody should begin nothing now: paused, stopped, ended, or behind as many others as share the workers. */
export function notServed(db: Database, runIds: readonly string[], now: number, suits = all): Set<string> {
  const first = firstServed(db, now, suits)
  const last = first.length === maxSharing ? first.at(-1) : undefined
  const known = db
    .select()
    .from(runs)
    .where(inArray(runs.id, [...runIds]))
    .all()
  const served = known.filter(({ state, queuePosition }) => {
    const isOpen = state === 'waiting' || state === 'running'
    return isOpen && (last === undefined || queuePosition <= last.queuePosition)
  })
  const servedIds = new Set(served.map(({ id }) => id))
  return new Set(runIds.filter((id) => !servedIds.has(id)))
}

/** Pictures that an owner has in hand, as they were claimed. */
export function claimedBy(db: Database, owner: string): ClaimedItem[] {
  const held = itemsInWork(db).filter((item) => item.owner === owner)
  const runIds = [...new Set(held.map(({ runId }) => runId))]
  const known = new Map(
    db
      .select()
      .from(runs)
      .where(inArray(runs.id, runIds))
      .all()
      .map((run) => [run.id, run]),
  )
  const pictures = held.flatMap((item) => {
    const run = known.get(item.runId)
    return run ? [{ run, item }] : []
  })
  const targets = targetsOf(db, pictures)
  return pictures.map((picture, i) => ({ ...picture, results: targets[i] ?? [] }))
}

/** Whether a picture of a run lies in none of some folders. */
export const hasSourcesOutside = (db: Pick<Database, 'select'>, runId: string, folders: readonly string[]): boolean =>
  db
    .select({ id: items.id })
    .from(items)
    .where(
      and(eq(items.runId, runId), ...folders.map((folder) => sql`substr(${items.sourcePath}, 1, ${folder.length + 1}) <> ${`${folder}/`}`)),
    )
    .limit(1)
    .get() !== undefined

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
  readonly traits: PictureTraits
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
  /** What should be known of it though it was delivered. */
  readonly remarks?: readonly ErrorReport[]
  readonly delivered: readonly DeliveredResult[]
}

/** Whether a claim is the newest of its picture and not answered yet. */
export const isHeld = (db: Database, { itemId, token }: { readonly itemId: number; readonly token: number }): boolean =>
  db.select({ id: items.id }).from(items).where(held(itemId, token)).get() !== undefined

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

/** Puts a claimed picture back in line, counting why; in a run that was stopped meanwhile it is left out like the others. */
export function returnItem(
  db: Database,
  item: Pick<StoredItem, 'id' | 'token' | 'runId'>,
  why: 'crashes' | 'interruptions' | 'pause',
): void {
  const counted = why === 'pause' ? {} : { [why]: sql`${items[why]} + 1` }
  db.transaction(
    (tx) => {
      const run = tx.select({ state: runs.state }).from(runs).where(eq(runs.id, item.runId)).get()
      const state = run && isOver(run.state) ? 'skipped' : 'waiting'
      tx.update(items)
        .set({ state, owner: null, leaseUntil: null, ...counted })
        .where(held(item.id, item.token))
        .run()
      if (state === 'skipped') addEvent(tx, item.runId, Date.now())
    },
    { behavior: 'immediate' },
  )
}

/** Puts all pictures in work back in line, whoever holds them. */
export function releaseItems(db: Database): void {
  db.update(items).set({ state: 'waiting', owner: null, leaseUntil: null }).where(eq(items.state, 'working')).run()
}

/** Prolongs the leases of pictures that an owner has in hand; any other of its pictures is lost once its lease has run out. */
export function renewLeases(db: Database, owner: string, inHand: readonly number[], leaseUntil: number): void {
  if (inHand.length === 0) return
  db.update(items)
    .set({ leaseUntil })
    .where(and(inArray(items.id, [...inHand]), eq(items.owner, owner), eq(items.state, 'working')))
    .run()
}

/** Pictures in work: there are as many as workers. */
export const itemsInWork = (db: Database): StoredItem[] => db.select().from(items).where(eq(items.state, 'working')).all()

/** Runs in work of which no picture is left to do. */
export const exhaustedRuns = (db: Database): StoredRun[] =>
  db
    .select()
    .from(runs)
    .where(and(inArray(runs.state, ['waiting', 'running']), eq(runs.waiting, 0), eq(runs.working, 0)))
    .all()

/** Runs that a runner has something to do for, now or once a fault is mended; not those that a person holds. */
export const hasRunsToServe = (db: Database): boolean => queuedRuns(db).some((run) => run.state !== 'paused' || run.reason !== null)

export type StoredRunner = typeof runners.$inferSelect

/** A sign of life; `trouble` says in words what keeps the runner from working. */
export function beat(db: Database, { trouble, ...runner }: { id: string; processId: number; trouble: string | null }, now: number): void {
  db.insert(runners)
    .values({ ...runner, startedAt: now, beatAt: now, trouble })
    .onConflictDoUpdate({ target: runners.id, set: { processId: runner.processId, beatAt: now, trouble } })
    .run()
}

/** A runner that leaves takes its row with it, so that nobody waits for it. */
export function leave(db: Database, id: string): void {
  db.delete(runners).where(eq(runners.id, id)).run()
}

export const otherRunners = (db: Database, id: string): StoredRunner[] => db.select().from(runners).where(ne(runners.id, id)).all()

export function forgetRunners(db: Database, silentSince: number): void {
  db.delete(runners).where(lt(runners.beatAt, silentSince)).run()
}

export const listRunners = (db: Database): StoredRunner[] => db.select().from(runners).all()
