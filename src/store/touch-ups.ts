import { and, eq } from 'drizzle-orm'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import type { Database } from './database'
import { touchUps } from './schema'

export type StoredTouchUp = typeof touchUps.$inferSelect

/** States kept of one picture; the oldest go first. */
export const maxStates = 200

/** What is in force. */
export const inForce = ({ states, cursor }: Pick<StoredTouchUp, 'states' | 'cursor'>): TouchUp => states[cursor - 1] ?? untouched

export const listTouchUps = (db: Pick<Database, 'select'>, loopId: string): StoredTouchUp[] =>
  db.select().from(touchUps).where(eq(touchUps.loopId, loopId)).all()

export const findTouchUp = (db: Pick<Database, 'select'>, loopId: string, sourcePath: string): StoredTouchUp | undefined =>
  db
    .select()
    .from(touchUps)
    .where(and(eq(touchUps.loopId, loopId), eq(touchUps.sourcePath, sourcePath)))
    .get()

type Source = Pick<StoredTouchUp, 'loopId' | 'sourcePath' | 'sizeBytes' | 'modifiedMs' | 'sourceHash'>

/**
 * Makes a new state of a picture; what had been taken back is dropped. False, and nothing is stored, where it is not the version that was
 * changed. @param version 0 for a picture that was never touched up
 */
export function pushTouchUp(db: Database, source: Source, touchUp: TouchUp, { version, now }: { version: number; now: number }): boolean {
  return db.transaction(
    (tx) => {
      const before = findTouchUp(tx, source.loopId, source.sourcePath)
      if ((before?.version ?? 0) !== version) return false
      const states = [...(before?.states.slice(0, before.cursor) ?? []), touchUp].slice(-maxStates)
      const next = { ...source, states, cursor: states.length, version: version + 1, updatedAt: now }
      tx.insert(touchUps)
        .values(next)
        .onConflictDoUpdate({ target: [touchUps.loopId, touchUps.sourcePath], set: next })
        .run()
      return true
    },
    { behavior: 'immediate' },
  )
}

/** Takes the last state back, or makes it again. False where there is none, or another window was faster. */
export function stepTouchUp(
  db: Database,
  { loopId, sourcePath }: Pick<Source, 'loopId' | 'sourcePath'>,
  by: 1 | -1,
  { version, now }: { version: number; now: number },
): boolean {
  return db.transaction(
    (tx) => {
      const before = findTouchUp(tx, loopId, sourcePath)
      const cursor = (before?.cursor ?? 0) + by
      if (!before || before.version !== version || cursor < 0 || cursor > before.states.length) return false
      tx.update(touchUps)
        .set({ cursor, version: version + 1, updatedAt: now })
        .where(and(eq(touchUps.loopId, loopId), eq(touchUps.sourcePath, sourcePath)))
        .run()
      return true
    },
    { behavior: 'immediate' },
  )
}

/** The picture lies elsewhere now, or was changed: its touch-up goes with it, unless another lies there. */
export function moveTouchUp(db: Database, from: Source, to: Pick<Source, 'sourcePath' | 'sizeBytes' | 'modifiedMs' | 'sourceHash'>): void {
  db.transaction(
    (tx) => {
      if (from.sourcePath !== to.sourcePath && findTouchUp(tx, from.loopId, to.sourcePath)) return
      tx.update(touchUps)
        .set(to)
        .where(and(eq(touchUps.loopId, from.loopId), eq(touchUps.sourcePath, from.sourcePath)))
        .run()
    },
    { behavior: 'immediate' },
  )
}
