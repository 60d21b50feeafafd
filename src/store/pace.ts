import { and, desc, eq, inArray, isNotNull, sql } from 'drizzle-orm'
import type { Finished } from '@/jobs/pace'
import type { Database } from './database'
import { items } from './schema'

const pixels = sql<number>`coalesce(${items.width} * ${items.height}, 0)`

/** The newest pictures of a run that a worker is through with, newest first. */
export function recentlyFinished(db: Database, runId: string, most: number): Finished[] {
  const { finishedAt, milliseconds } = items
  const worked = and(eq(items.runId, runId), isNotNull(finishedAt), isNotNull(milliseconds), inArray(items.state, ['done', 'failed']))
  const rows = db.select({ at: finishedAt, milliseconds, pixels }).from(items).where(worked).orderBy(desc(finishedAt)).limit(most).all()
  return rows.map((row) => ({ at: row.at ?? 0, milliseconds: row.milliseconds ?? 0, pixels: row.pixels }))
}

/** What the pictures of a run that are not yet through have in pixels: looks at each of them. */
export function openPixels(db: Database, runId: string): number {
  const open = and(eq(items.runId, runId), inArray(items.state, ['waiting', 'working']))
  return (
    db
      .select({ sum: sql<number>`coalesce(sum(${pixels}), 0)` })
      .from(items)
      .where(open)
      .get()?.sum ?? 0
  )
}
