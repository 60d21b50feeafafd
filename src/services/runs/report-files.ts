import { join } from 'node:path'
import { AppError } from '@/base/errors'
import { placeFile } from '@/files/placing'
import { completeDelivery } from '@/jobs/delivery'
import type { StoredRun } from '@/store/runs'
import type { Context } from '../context'
import { endFolder } from '../pages/work'
import { reportCsv, runReport } from './report'

/**
 * Writes a run's report as JSON and CSV beside the pictures of each delivery that wants it; undefined where none does.
 * A report that is there already was written by a runner that ended right after: it stays.
 */
export function writeReports(context: Context, run: StoredRun): Promise<void> | undefined {
  const wanted = run.deliveries.map(completeDelivery).filter((delivery) => delivery.report)
  return wanted.length > 0 ? write(context, run, [...new Set(wanted.map(endFolder))]) : undefined
}

async function write(context: Context, run: StoredRun, folders: readonly string[]): Promise<void> {
  const report = { ...runReport(context, run.id), state: 'done', finishedAt: new Date().toISOString() }
  const contents = { json: `${JSON.stringify(report, null, 2)}\n`, csv: reportCsv(report) }
  for (const folder of folders)
    for (const [kind, content] of Object.entries(contents))
      await placeFile(Buffer.from(content), {
        base: folder,
        target: join(folder, `run-${run.number}-report.${kind}`),
        attempt: { runId: run.id, resultId: 0, token: 1 },
      }).catch((error) => {
        if (!(error instanceof AppError && error.code === 'deliveryExists')) throw error
      })
}
