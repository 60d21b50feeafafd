import { context } from '@/server/context'
import { answer } from '@/server/http'
import { originalsStatementOf, runResults, runSummary } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id } = await params
    return { run: runSummary(context(), id), results: runResults(context(), id), originals: originalsStatementOf(context(), id) }
  })
