import { asc, gt, lt, max } from 'drizzle-orm'
import type { Database } from './database'
import { events } from './schema'

/** Followers look every few hundred milliseconds; this many rows are hours of work. */
const keptEvents = 10_000

export function addEvent(db: Pick<Database, 'insert'>, runId: string, now: number): void {
  db.insert(events).values({ runId, at: now }).run()
}

export const lastEventId = (db: Database): number =>
  db
    .select({ value: max(events.id) })
    .from(events)
    .get()?.value ?? 0

/** Runs that something happened to after an event, and the newest event's id. */
export function eventsAfter(db: Database, id: number): { lastId: number; runIds: string[] } {
  const rows = db.select().from(events).where(gt(events.id, id)).orderBy(asc(events.id)).all()
  return { lastId: rows.at(-1)?.id ?? id, runIds: [...new Set(rows.map((row) => row.runId))] }
}

export function trimEvents(db: Database): void {
  db.delete(events)
    .where(lt(events.id, lastEventId(db) - keptEvents))
    .run()
}
