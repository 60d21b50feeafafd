import { eq } from 'drizzle-orm'
import type { Database } from './database'
import { standingStarts } from './schema'

export type StoredStart = typeof standingStarts.$inferSelect

export const findStart = (db: Database, loopId: string): StoredStart | undefined =>
  db.select().from(standingStarts).where(eq(standingStarts.loopId, loopId)).get()

export const listStarts = (db: Database): StoredStart[] => db.select().from(standingStarts).all()

/** Notes what came of a start, or begins anew. */
export function noteStart(db: Database, start: StoredStart): void {
  const { loopId: _, ...values } = start
  db.insert(standingStarts).values(start).onConflictDoUpdate({ target: standingStarts.loopId, set: values }).run()
}

export function forgetStart(db: Database, loopId: string): void {
  db.delete(standingStarts).where(eq(standingStarts.loopId, loopId)).run()
}
