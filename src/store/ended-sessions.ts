import { eq, lt } from 'drizzle-orm'
import type { Database } from './database'
import { endedSessions } from './schema'

/** Notes a session as ended; what has expired by itself is forgotten. */
export function endSession(db: Database, nonce: string, until: number, now: number): void {
  db.delete(endedSessions).where(lt(endedSessions.until, now)).run()
  db.insert(endedSessions).values({ nonce, until }).onConflictDoNothing().run()
}

export const isEnded = (db: Database, nonce: string): boolean =>
  db.select().from(endedSessions).where(eq(endedSessions.nonce, nonce)).get() !== undefined
