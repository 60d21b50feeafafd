import { and, desc, eq, inArray, isNotNull, sql } from 'drizzle-orm'
import type { Finished } from '@/jobs/pace'
import type { Database } from './database'
import { items } from './schema'

/** The newest finished pictures of a run, newest first. */
export function recentlyFinished(db: Database, runId: string, most: number): Finished[] {
  const { finishedAt, milliseconds, sizeBytes } = items
  const finished = and(eq(items.runId, runId), isNotNull(finishedAt), inArray(items.state, ['done', 'failed']))
  const rows = db
    .select({ at: finishedAt, milliseconds, sizeBytes })
    .from(items)
    .where(finished)
    .orderBy(desc(finishedAt))
    .limit(most)
    .all()
  return rows.flatMap(({ at, ...row }) => (at === null ? [] : [{ at, milliseconds: row.milliseconds ?? 0, sizeBytes: row.sizeBytes }]))
}

/** What the pictures of a run that are not yet through weigh: looks at each of them. */
export function openBytes(db: Database, runId: string): number {
  const open = and(eq(items.runId, runId), inArray(items.state, ['waiting', 'working']))
  return (
    db
      .select({ bytes: sql<number>`coalesce(sum(${items.sizeBytes}), 0)` })
      .from(items)
      .where(open)
      .get()?.bytes ?? 0
  )
}
