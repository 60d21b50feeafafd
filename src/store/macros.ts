import { and, desc, eq, isNotNull, isNull, lt, max } from 'drizzle-orm'
import type { Step } from '@/macros/step'
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
  readonly steps: readonly Step[]
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
export function addRevision(db: Database, macroId: string, steps: readonly Step[], now: number): number {
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

/** What macros on the shelf are called. */
export const listNames = (db: Database): { id: string; name: string }[] =>
  db.select({ id: macros.id, name: macros.name }).from(macros).where(isNull(macros.deletedAt)).all()

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

export interface StoredRevision {
  readonly revision: number
  readonly createdAt: number
  readonly steps: readonly Step[]
}

/** Every revision of a macro, newest first. */
export const listRevisions = (db: Database, macroId: string): StoredRevision[] =>
  db
    .select({ revision: macroRevisions.revision, createdAt: macroRevisions.createdAt, steps: macroRevisions.steps })
    .from(macroRevisions)
    .where(eq(macroRevisions.macroId, macroId))
    .orderBy(desc(macroRevisions.revision))
    .all()

/** Changes what is said about a macro; its steps only change by revisions. */
export function describeMacro(db: Database, id: string, about: Pick<StoredMacro, 'name' | 'notes' | 'tags'>, now: number): void {
  db.update(macros)
    .set({ ...about, updatedAt: now })
    .where(eq(macros.id, id))
    .run()
}

/** Macros in the bin, last binned first. */
export const listBinned = (db: Database): { id: string; name: string; deletedAt: number }[] =>
  db
    .select({ id: macros.id, name: macros.name, deletedAt: macros.deletedAt })
    .from(macros)
    .where(isNotNull(macros.deletedAt))
    .orderBy(desc(macros.deletedAt))
    .all()
    .map((macro) => ({ ...macro, deletedAt: macro.deletedAt ?? 0 }))

/** Removes for good what has lain in the bin since before a time. */
export function emptyBin(db: Database, before: number): void {
  db.transaction((tx) => {
    const old = tx
      .select({ id: macros.id })
      .from(macros)
      .where(and(isNotNull(macros.deletedAt), lt(macros.deletedAt, before)))
      .all()
    for (const { id } of old) {
      tx.delete(macroRevisions).where(eq(macroRevisions.macroId, id)).run()
      tx.delete(macros).where(eq(macros.id, id)).run()
    }
  })
}

/** Moves a macro to the bin, or takes it back with `null`. */
export function binMacro(db: Database, id: string, deletedAt: number | null): void {
  db.update(macros).set({ deletedAt }).where(eq(macros.id, id)).run()
}
