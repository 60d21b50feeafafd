import { and, desc, eq, isNull } from 'drizzle-orm'
import { completeDelivery } from '@/jobs/delivery'
import { completeIntake, type Loop } from '@/jobs/loop'
import type { Database } from './database'
import { loops } from './schema'

type Row = typeof loops.$inferSelect
const fromRow = ({ id, name, intake, macroUses, deliveries, start, numberSet, version }: Row): Loop => ({
  id,
  name,
  intake: completeIntake(intake),
  macros: macroUses,
  deliveries: deliveries.map(completeDelivery),
  start,
  numberSet,
  version,
})

export function listLoops(db: Database): Loop[] {
  return db.select().from(loops).where(isNull(loops.deletedAt)).orderBy(desc(loops.updatedAt)).all().map(fromRow)
}

export function findLoop(db: Database, id: string): Loop | undefined {
  const row = db
    .select()
    .from(loops)
    .where(and(eq(loops.id, id), isNull(loops.deletedAt)))
    .get()
  return row && fromRow(row)
}

/**
 * Stores a loop, new or changed; its version rises. False, and nothing is stored, where it is not the version that was
 * changed, unless the same window has made all changes since.
 */
export function saveLoop(db: Database, loop: Loop, now: number, changedBy: string | null = null): boolean {
  const { id, name, intake, macros, deliveries, start, numberSet, version } = loop
  return db.transaction(
    (tx) => {
      const stored = tx.select({ version: loops.version, changedBy: loops.changedBy }).from(loops).where(eq(loops.id, id)).get()
      const isOwn = changedBy !== null && stored?.changedBy === changedBy
      if (stored && stored.version !== version && !isOwn) return false
      const values = {
        name,
        intake,
        macroUses: macros,
        deliveries,
        start,
        numberSet,
        version: (stored?.version ?? version) + 1,
        changedBy,
        updatedAt: now,
      }
      tx.insert(loops)
        .values({ id, createdAt: now, ...values })
        .onConflictDoUpdate({ target: loops.id, set: values })
        .run()
      return true
    },
    { behavior: 'immediate' },
  )
}

export function binLoop(db: Database, id: string, deletedAt: number | null): void {
  db.update(loops).set({ deletedAt }).where(eq(loops.id, id)).run()
}
