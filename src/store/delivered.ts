import { group } from 'd3'
import { and, asc, desc, eq, inArray, isNotNull, max, min, not, sql } from 'drizzle-orm'
import type { TouchUp } from '@/jobs/touch-up'
import type { PictureTraits } from '@/pixels/traits'
import type { Database } from './database'
import { items, results, runs } from './schema'

/* What runs have delivered, by loop, by source and by path. */

/** A file that a loop delivered. */
export interface LastDelivered {
  readonly hash: string
  readonly sizeBytes: number
  /** The picture that it was made from. */
  readonly sourcePath: string
}

/** What a loop delivered last under a path. */
export function lastDelivered(db: Pick<Database, 'select'>, loopId: string, path: string): LastDelivered | undefined {
  const row = db
    .select({ hash: results.hash, sizeBytes: results.sizeBytes, sourcePath: items.sourcePath })
    .from(results)
    .innerJoin(items, eq(items.id, results.itemId))
    .innerJoin(runs, eq(runs.id, items.runId))
    .where(and(eq(results.targetPath, path), eq(runs.loopId, loopId), isNotNull(results.hash)))
    .orderBy(desc(results.id))
    .limit(1)
    .get()
  return row?.hash && row.sizeBytes !== null ? { hash: row.hash, sizeBytes: row.sizeBytes, sourcePath: row.sourcePath } : undefined
}

/** A name that a run in the queue will give to a file. */
export interface ReservedName {
  readonly path: string
  readonly loopId: string
  readonly sourcePath: string
}

/** Names that runs in the queue have still to give. */
export const reservedNames = (db: Database): ReservedName[] =>
  db
    .select({ path: results.targetPath, loopId: runs.loopId, sourcePath: items.sourcePath })
    .from(results)
    .innerJoin(items, eq(items.id, results.itemId))
    .innerJoin(runs, eq(runs.id, items.runId))
    .where(inArray(items.state, ['waiting', 'working']))
    .all()

/** A source of a loop that was delivered, with the files that came of it. */
export interface DeliveredSource {
  readonly sizeBytes: number
  readonly modifiedMs: number
  /** What it had of its own then. */
  readonly touchUp: TouchUp | null
  readonly results: readonly {
    readonly id: number
    readonly deliveryId: string
    readonly path: string
    readonly sizeBytes: number | null
    readonly hash: string | null
    readonly traits: PictureTraits | null
  }[]
}

const deliveredColumns = {
  id: items.id,
  sourcePath: items.sourcePath,
  sizeBytes: items.sizeBytes,
  modifiedMs: items.modifiedMs,
  touchUp: items.touchUp,
  result: {
    id: results.id,
    deliveryId: results.deliveryId,
    path: results.targetPath,
    sizeBytes: results.sizeBytes,
    hash: results.hash,
    traits: results.traits,
  },
}

type DeliveredRow = Omit<DeliveredSource, 'results'> & {
  readonly id: number
  readonly sourcePath: string
  readonly result: DeliveredSource['results'][number]
}

/** Sources with all their files, from a row for each file. */
const deliveredSources = (rows: readonly DeliveredRow[]): (DeliveredSource & { readonly sourcePath: string })[] =>
  [...group(rows, ({ id }) => id).values()].flatMap((of) => {
    const [first] = of
    if (!first) return []
    const { id: _, result: __, ...source } = first
    return [{ ...source, results: of.map(({ result }) => result) }]
  })

/** Each time a loop delivered a source, newest first; with `making`, only as runs of that making did. */
export function deliveriesOf(db: Database, loopId: string, sourcePath: string, making?: string): DeliveredSource[] {
  const rows = db
    .select(deliveredColumns)
    .from(items)
    .innerJoin(runs, eq(runs.id, items.runId))
    .innerJoin(results, eq(results.itemId, items.id))
    .where(
      and(
        eq(items.sourcePath, sourcePath),
        eq(items.state, 'done'),
        eq(runs.loopId, loopId),
        making === undefined ? undefined : eq(runs.making, making),
      ),
    )
    .orderBy(desc(items.id))
    .all()
  return deliveredSources(rows)
}

/** Of the first few pictures that a run has delivered, one file each, by the number of its result. Asked often: by an index, however long the run. */
export function someResults(db: Database, runId: string, most: number): number[] {
  const first = db
    .select({ id: items.id })
    .from(items)
    .where(and(eq(items.state, 'done'), eq(items.runId, runId)))
    .orderBy(asc(items.ordinal))
    .limit(most)
    .all()
    .map(({ id }) => id)
  return db
    .select({ id: min(results.id) })
    .from(results)
    .where(and(inArray(results.itemId, first), isNotNull(results.hash)))
    .groupBy(results.itemId)
    .orderBy(asc(results.itemId))
    .all()
    .flatMap(({ id }) => id ?? [])
}

/** How a loop delivered each of its sources last, by path; results under `tries` do not count. */
export function lastDeliveries(db: Database, loopId: string, tries: string): ReadonlyMap<string, DeliveredSource> {
  const isTry = sql`substr(${results.targetPath}, 1, ${tries.length}) = ${tries}`
  const last = db
    .select({ id: max(items.id) })
    .from(items)
    .innerJoin(runs, eq(runs.id, items.runId))
    .innerJoin(results, eq(results.itemId, items.id))
    .where(and(eq(runs.loopId, loopId), eq(items.state, 'done'), eq(runs.isTry, false), not(isTry)))
    .groupBy(items.sourcePath)
  const rows = db
    .select(deliveredColumns)
    .from(items)
    .innerJoin(results, eq(results.itemId, items.id))
    .where(inArray(items.id, last))
    .orderBy(asc(results.id))
    .all()
  return new Map(deliveredSources(rows).map((source) => [source.sourcePath, source]))
}
