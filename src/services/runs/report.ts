import { csvFormatRow, rollup } from 'd3'
import { AppError, errorSentence } from '@/base/errors'
import { counted } from '@/base/format'
import { colourSpaces, type OutputSpaceId } from '@/colour/spaces'
import { completeDelivery, type Delivery } from '@/jobs/delivery'
import type { GatheredFile } from '@/jobs/gather'
import { leftOutSentences } from '@/jobs/left-out'
import { describeTouchUp } from '@/jobs/touch-up'
import { marksOfSet } from '@/pixels/traits'
import * as store from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from '../context'
import { silentMarks } from '../settings'

/** One picture in one delivery, as the report tells it. Absent values are null. */
export interface ReportRow {
  readonly source: string
  readonly sourceBytes: number
  readonly sourceSha256: string | null
  readonly sourceWidthPx: number | null
  readonly sourceHeightPx: number | null
  readonly sourceUnchanged: boolean | null
  readonly state: string
  readonly error: string | null
  /** What should be known of it though it was delivered. */
  readonly remarks: string | null
  /** What it had of its own, in words. */
  readonly touchedUp: string | null
  readonly delivered: string | null
  readonly deliveredBytes: number | null
  readonly deliveredSha256: string | null
  readonly widthPx: number | null
  readonly heightPx: number | null
  readonly profile: string | null
  readonly dpi: number | null
  readonly seconds: number | null
  /** What stands out about it among the others of its delivery, in words. */
  readonly noticed: string | null
  readonly constants: readonly unknown[]
}

export interface RunReport {
  readonly format: 'copper-loop/report'
  readonly version: 1
  readonly run: number
  readonly loop: string
  readonly state: string
  readonly macros: readonly { readonly name: string; readonly revision: number }[]
  readonly startedAt: string | null
  readonly finishedAt: string | null
  readonly totals: Readonly<Record<string, number>>
  /** `32 source files, all unchanged`. */
  readonly originals: string
  /** What else lay in the intake and was not taken, in sentences. */
  readonly leftOut: readonly string[]
  /** Files of pages that it made, and names of pictures that are on none. */
  readonly pages: readonly Omit<GatheredFile, 'set'>[]
  readonly pictures: readonly ReportRow[]
}

export function runReport(context: Context, id: string): RunReport {
  const { db } = context
  const run = store.findRun(db, id)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  const items = store.listItems(db, id)
  const marksOf = marksOfRun(context, items)
  const time = (at: number | null): string | null => (at === null ? null : new Date(at).toISOString())
  return {
    format: 'copper-loop/report',
    version: 1,
    run: run.number,
    loop: run.loopName,
    state: run.state,
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    startedAt: time(run.startedAt),
    finishedAt: time(run.finishedAt),
    totals: { waiting: run.waiting, working: run.working, done: run.done, failed: run.failed, skipped: run.skipped },
    originals: originalsStatement(run),
    pages: run.gathered.map(({ set: _, ...file }) => file),
    leftOut: run.leftOut ? leftOutSentences(run.leftOut) : [],
    pictures: items.flatMap((item) => rowsOf(item, { deliveries: run.deliveries.map(completeDelivery), macros: run.macros }, marksOf)),
  }
}

type MarksOf = (result: store.BriefResult) => string[]

/** What stands out about a delivered picture among the others of the same delivery. */
export function marksOfRun(context: Context, items: readonly { readonly results: readonly store.BriefResult[] }[]): MarksOf {
  const seen = items.flatMap(({ results }) => results.flatMap(({ deliveryId, traits }) => (traits ? [{ deliveryId, traits }] : [])))
  const silent = new Set(silentMarks(context))
  const marks = rollup(
    seen,
    (set) =>
      marksOfSet(
        set.map(({ traits }) => traits),
        silent,
      ),
    ({ deliveryId }) => deliveryId,
  )
  return ({ deliveryId, traits }) => (traits ? (marks.get(deliveryId)?.(traits) ?? []) : [])
}

/** What the comparison of size, time and SHA-256 before and after found. Files that were never opened are not counted. */
export function originalsStatement({ compared, changed }: { readonly compared: number; readonly changed: number }): string {
  if (compared === 0) return 'No source file was compared yet'
  const files = counted(compared, 'source file')
  return changed === 0
    ? `${files}, ${compared === 1 ? '' : 'all '}unchanged`
    : `${files}, ${changed.toLocaleString('en-GB')} changed by another program during the run`
}

const spaceName = (space: OutputSpaceId): string => (space === 'grey' ? 'grey, sRGB transfer' : colourSpaces[space].name)

function rowsOf(
  item: store.ItemWithResults,
  { deliveries, macros }: { readonly deliveries: readonly Delivery[]; readonly macros: readonly FrozenMacro[] },
  marksOf: MarksOf,
): ReportRow[] {
  const base = {
    source: item.sourcePath,
    sourceBytes: item.sizeBytes,
    sourceSha256: item.sourceHash,
    sourceWidthPx: item.width,
    sourceHeightPx: item.height,
    sourceUnchanged: item.sourceUnchanged,
    state: item.state,
    error: item.error && errorSentence(item.error),
    remarks: (item.remarks ?? []).map(errorSentence).join(' ') || null,
    touchedUp: item.touchUp ? describeTouchUp(item.touchUp, macros).join('; ') : null,
    seconds: item.milliseconds === null ? null : item.milliseconds / 1000,
  }
  const nothing = {
    delivered: null,
    deliveredBytes: null,
    deliveredSha256: null,
    widthPx: null,
    heightPx: null,
    profile: null,
    dpi: null,
    noticed: null,
    constants: [],
  }
  if (item.results.length === 0) return [{ ...base, ...nothing }]
  return item.results.map((result) =>
    result.hash === null
      ? { ...base, ...nothing }
      : {
          ...base,
          delivered: result.targetPath,
          deliveredBytes: result.sizeBytes,
          deliveredSha256: result.hash,
          widthPx: result.width,
          heightPx: result.height,
          ...asDelivered(deliveries.find(({ id }) => id === result.deliveryId)),
          noticed: marksOf(result).join(', ') || null,
          constants: result.constants ?? [],
        },
  )
}

const asDelivered = (delivery: Delivery | undefined) => ({
  profile: delivery ? spaceName(delivery.space) : null,
  dpi: delivery?.dpi ?? null,
})

/** The report's pictures as CSV (RFC 4180). Cells that a spreadsheet could take for a formula are quoted with an apostrophe. */
export function reportCsv(report: RunReport): string {
  const columns = Object.keys(report.pictures[0] ?? {}).filter((key) => key !== 'constants') as (keyof ReportRow)[]
  const cell = (value: unknown): string => String(value ?? '').replace(/^([=+\-@\t])/, "'$1")
  const rows = [columns, ...report.pictures.map((row) => columns.map((key) => cell(row[key])))]
  return rows.map((row) => `${csvFormatRow(row)}\r\n`).join('')
}
