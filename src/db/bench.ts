import { asc, eq, gt } from 'drizzle-orm'
import type { Database } from './database'
import { benchChanges, benchState } from './schema'

export interface StoredBench {
  readonly changes: readonly unknown[]
  readonly cursor: number
  readonly samplePath: string | null
  readonly samples: readonly string[]
  readonly macroId: string | null
}

const onlyRow = 1

export function readBench(db: Database): StoredBench {
  const state = db.select().from(benchState).where(eq(benchState.id, onlyRow)).get()
  const changes = db.select({ change: benchChanges.change }).from(benchChanges).orderBy(asc(benchChanges.sequence)).all()
  return {
    changes: changes.map((row) => row.change),
    cursor: state?.cursor ?? 0,
    samplePath: state?.samplePath ?? null,
    samples: state?.samples ?? [],
    macroId: state?.macroId ?? null,
  }
}

/**
 * Brings the stored history from `from` changes to `from` + `added`, cursor given. Returns false, and stores nothing,
 * when another window has moved on meanwhile.
 */
export function extendBench(
  db: Database,
  edit: { from: number; expectedCursor: number; added: readonly unknown[]; cursor: number },
): boolean {
  return db.transaction(
    (tx) => {
      const state = tx.select().from(benchState).where(eq(benchState.id, onlyRow)).get()
      if ((state?.cursor ?? 0) !== edit.expectedCursor) return false
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
      return true
    },
    { behavior: 'immediate' },
  )
}

/** What lies on the bench besides the wire. */
export interface PlacedOnBench {
  readonly samplePath?: string | null
  readonly samples?: readonly string[]
  readonly macroId?: string | null
}

export function placeOnBench(db: Database, placed: PlacedOnBench): void {
  db.insert(benchState)
    .values({ id: onlyRow, cursor: 0, ...placed })
    .onConflictDoUpdate({ target: benchState.id, set: placed })
    .run()
}
