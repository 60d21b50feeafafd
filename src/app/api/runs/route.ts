import { context } from '@/server/context'
import { answer, optionalWhole } from '@/server/http'
import { listRuns } from '@/server/runs'

export const dynamic = 'force-dynamic'

/** Open runs and the newest of the others; with `?before=NUMBER`, older ones. */
export const GET = (request: Request): Promise<Response> =>
  answer(() => listRuns(context(), optionalWhole(request, 'before', 1, Number.MAX_SAFE_INTEGER)))
