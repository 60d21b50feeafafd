import { and, desc, eq, isNull, max } from 'drizzle-orm'
import type { Database } from './database'
import { macroRevisions, macros } from './schema'

export interface StoredMacro {
  readonly id: string
  readonly name: string
  readonly notes: string
  readonly tags: readonly string[]
  readonly createdAt: number
  readonly updatedAt: number
  readonly revision: number
  readonly steps: readonly unknown[]
}

/** Puts a new macro on the shelf as r1. */
export function insertMacro(db: Database, macro: Pick<StoredMacro, 'id' | 'name' | 'notes' | 'tags' | 'steps'>, now: number): void {
  const { id, name, notes, tags, steps } = macro
  db.transaction((tx) => {
    tx.insert(macros).values({ id, name, notes, tags, createdAt: now, updatedAt: now }).run()
    tx.insert(macroRevisions).values({ macroId: id, revision: 1, steps, createdAt: now }).run()
  })
}

/** Adds a revision; returns its number. */
export function addRevision(db: Database, macroId: string, steps: readonly unknown[], now: number): number {
  return db.transaction(
    (tx) => {
      const last = tx
        .select({ value: max(macroRevisions.revision) })
        .from(macroRevisions)
        .where(eq(macroRevisions.macroId, macroId))
        .get()
      const revision = (last?.value ?? 0) + 1
      tx.insert(macroRevisions).values({ macroId, revision, steps, createdAt: now }).run()
      tx.update(macros).set({ updatedAt: now }).where(eq(macros.id, macroId)).run()
      return revision
    },
    { behavior: 'immediate' },
  )
}

/** Every macro on the shelf with its newest revision, last changed first. */
export function listMacros(db: Database): StoredMacro[] {
  const shelf = db.select().from(macros).where(isNull(macros.deletedAt)).orderBy(desc(macros.updatedAt)).all()
  return shelf.flatMap((macro) => findMacro(db, macro.id) ?? [])
}

/** One macro at a revision, or at its newest. Macros in the bin are not found. */
export function findMacro(db: Database, id: string, revision: number | null = null): StoredMacro | undefined {
  const macro = db
    .select()
    .from(macros)
    .where(and(eq(macros.id, id), isNull(macros.deletedAt)))
    .get()
  const wanted =
    revision === null ? eq(macroRevisions.macroId, id) : and(eq(macroRevisions.macroId, id), eq(macroRevisions.revision, revision))
  const found = db.select().from(macroRevisions).where(wanted).orderBy(desc(macroRevisions.revision)).limit(1).get()
  if (!macro || !found) return undefined
  const { name, notes, tags, createdAt, updatedAt } = macro
  return { id, name, notes, tags, createdAt, updatedAt, revision: found.revision, steps: found.steps }
}

/** Moves a macro to the bin, or takes it back with `null`. */
export function binMacro(db: Database, id: string, deletedAt: number | null): void {
  db.update(macros).set({ deletedAt }).where(eq(macros.id, id)).run()
}
