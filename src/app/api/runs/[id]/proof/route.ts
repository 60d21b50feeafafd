import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.proofOfRun, ({ asked: { id: runId } }) => helpers().ask('proofOfRun', { runId }))
