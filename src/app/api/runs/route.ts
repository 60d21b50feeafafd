import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { listRuns } from '@/services/runs/runs'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.runs, ({ asked: { before } }) => listRuns(context(), before))
