import { asc, eq, gt, lte, max } from 'drizzle-orm'
import type { PictureOnBench } from '@/jobs/picture-wire'
import type { BenchDocument, Change } from '@/macros/history'
import type { Database } from './database'
import { benchChanges, benchState } from './schema'

export interface StoredBench {
  /** What lay on the wire before the oldest change that is kept; null for nothing. */
  readonly base: BenchDocument | null
  /** How many changes that is. */
  readonly folded: number
  readonly changes: readonly Change[]
  /** Changes in force, folded ones among them. */
  readonly cursor: number
  readonly samplePath: string | null
  readonly samples: readonly string[]
  readonly macroId: string | null
  readonly picture: PictureOnBench | null
}

const onlyRow = 1

export function readBench(db: Pick<Database, 'select'>): StoredBench {
  const state = db.select().from(benchState).where(eq(benchState.id, onlyRow)).get()
  const changes = db.select({ change: benchChanges.change }).from(benchChanges).orderBy(asc(benchChanges.sequence)).all()
  return {
    base: state?.base ?? null,
    folded: state?.folded ?? 0,
    changes: changes.map((row) => row.change),
    cursor: state?.cursor ?? 0,
    samplePath: state?.samplePath ?? null,
    samples: state?.samples ?? [],
    macroId: state?.macroId ?? null,
    picture: state?.picture ?? null,
  }
}

/** How many changes can be undone. A quarter more are stored before the oldest are folded together. */
export const undoable = 2000
const foldedAt = undoable * 1.25

/**
 * Brings the stored history from `from` changes to `from` + `added`, cursor given. Returns false, and stores nothing,
 * when another window has moved on meanwhile.
 * @param fold what lies on the wire after some changes to what lay there before
 */
export function extendBench(
  db: Database,
  edit: { from: number; expectedCursor: number; added: readonly Change[]; cursor: number },
  fold: (base: BenchDocument | null, changes: readonly Change[]) => BenchDocument,
): boolean {
  return db.transaction(
    (tx) => {
      const state = tx.select().from(benchState).where(eq(benchState.id, onlyRow)).get()
      const folded = state?.folded ?? 0
      if ((state?.cursor ?? 0) !== edit.expectedCursor || edit.from < folded || edit.cursor < folded) return false
      const last =
        tx
          .select({ value: max(benchChanges.sequence) })
          .from(benchChanges)
          .get()?.value ?? folded
      const length = edit.added.length > 0 ? edit.from + edit.added.length : last
      if (edit.from > last || edit.cursor > length) return false
      if (edit.added.length > 0) {
        tx.delete(benchChanges).where(gt(benchChanges.sequence, edit.from)).run()
        edit.added.forEach((change, i) => {
          tx.insert(benchChanges)
            .values({ sequence: edit.from + i + 1, change })
            .run()
        })
      }
      tx.insert(benchState)
        .values({ id: onlyRow, cursor: edit.cursor })
        .onConflictDoUpdate({ target: benchState.id, set: { cursor: edit.cursor } })
        .run()
      if (edit.cursor - folded > foldedAt) foldOldest(tx, edit.cursor - undoable, fold)
      return true
    },
    { behavior: 'immediate' },
  )
}

/** Folds the changes up to a number into what lay on the wire before them. */
function foldOldest(
  db: Pick<Database, 'select' | 'update' | 'delete'>,
  upTo: number,
  fold: (base: BenchDocument | null, changes: readonly Change[]) => BenchDocument,
): void {
  const { base, folded, changes } = readBench(db)
  const next = fold(base, changes.slice(0, upTo - folded))
  db.update(benchState).set({ base: next, folded: upTo }).where(eq(benchState.id, onlyRow)).run()
  db.delete(benchChanges).where(lte(benchChanges.sequence, upTo)).run()
}

/** What lies on the bench besides the wire. */
export interface LaidOnBench {
  readonly samplePath?: string | null
  readonly samples?: readonly string[]
  readonly macroId?: string | null
  readonly picture?: PictureOnBench | null
}

export function layOnBench(db: Database, laid: LaidOnBench): void {
  db.insert(benchState)
    .values({ id: onlyRow, cursor: 0, ...laid })
    .onConflictDoUpdate({ target: benchState.id, set: laid })
    .run()
}
