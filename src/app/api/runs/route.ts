import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { listRuns } from '@/services/runs/summary'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.runs, ({ asked: { before } }) => listRuns(context(), before))
