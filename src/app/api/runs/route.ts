import { context } from '@/services/context'
import { listRuns } from '@/services/runs/runs'
import { answer, optionalWhole } from '@/web/http'

export const dynamic = 'force-dynamic'

/** Open runs and the newest of the others; with `?before=NUMBER`, older ones. */
export const GET = (request: Request): Promise<Response> =>
  answer(() => listRuns(context(), optionalWhole(request, 'before', 1, Number.MAX_SAFE_INTEGER)))
