import { and, desc, eq, isNull } from 'drizzle-orm'
import { completeDelivery, completeIntake, type Loop } from '@/core/loop'
import type { Database } from './database'
import { loops } from './schema'

type Row = typeof loops.$inferSelect
const fromRow = ({ id, name, intake, macroUses, deliveries, start }: Row): Loop => ({
  id,
  name,
  intake: completeIntake(intake),
  macros: macroUses,
  deliveries: deliveries.map(completeDelivery),
  start,
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

/** Stores a loop, new or changed. */
export function saveLoop(db: Database, loop: Loop, now: number): void {
  const { id, name, intake, macros, deliveries, start } = loop
  const values = { name, intake, macroUses: macros, deliveries, start, updatedAt: now }
  db.insert(loops)
    .values({ id, createdAt: now, ...values })
    .onConflictDoUpdate({ target: loops.id, set: values })
    .run()
}

export function binLoop(db: Database, id: string, deletedAt: number | null): void {
  db.update(loops).set({ deletedAt }).where(eq(loops.id, id)).run()
}
