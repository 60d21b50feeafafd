import { context } from '@/services/context'
import { reportCsv, runReport } from '@/services/runs/report'
import { answer, optional } from '@/web/http'
import { attachment } from '@/web/responses'

interface WithId {
  params: Promise<{ id: string }>
}

/** `?as=csv` or JSON. */
export const GET = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const report = runReport(context(), (await params).id)
    return optional(request, 'as') === 'csv'
      ? attachment(reportCsv(report), `run-${report.run}-report.csv`, 'text/csv; charset=utf-8')
      : attachment(`${JSON.stringify(report, null, 2)}\n`, `run-${report.run}-report.json`, 'application/json')
  })
