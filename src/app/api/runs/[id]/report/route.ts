import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { reportCsv, runReport } from '@/services/runs/report'
import { serve } from '@/web/http'
import { attachment } from '@/web/responses'

export const GET = serve(routes.report, ({ asked: { id, as } }) => {
  const report = runReport(context(), id)
  return as === 'csv'
    ? attachment(reportCsv(report), `run-${report.run}-report.csv`, 'text/csv; charset=utf-8')
    : attachment(`${JSON.stringify(report, null, 2)}\n`, `run-${report.run}-report.json`, 'application/json')
})
