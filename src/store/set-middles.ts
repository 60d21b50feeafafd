import { and, eq, inArray } from 'drizzle-orm'
import type { Database } from './database'
import { setMiddles } from './schema'

export type SetMiddle = typeof setMiddles.$inferSelect

export const middlesOf = (db: Database, loopId: string): SetMiddle[] =>
  db.select().from(setMiddles).where(eq(setMiddles.loopId, loopId)).all()

/** Keeps what was measured, in the place of what was measured before under the same key; not of what a run has gone by. */
export const putMiddle = (db: Database, middle: SetMiddle): void =>
  void db
    .insert(setMiddles)
    .values(middle)
    .onConflictDoUpdate({ target: [setMiddles.loopId, setMiddles.key], set: middle, setWhere: eq(setMiddles.used, false) })
    .run()

/** From now on these stay. */
export const fixMiddles = (db: Database, loopId: string, keys: readonly string[]): void =>
  void db
    .update(setMiddles)
    .set({ used: true })
    .where(and(eq(setMiddles.loopId, loopId), inArray(setMiddles.key, [...keys])))
    .run()

/** The set will be measured anew. */
export const forgetMiddles = (db: Database, loopId: string): number =>
  db.delete(setMiddles).where(eq(setMiddles.loopId, loopId)).run().changes
