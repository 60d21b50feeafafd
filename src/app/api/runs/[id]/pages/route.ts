import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { runSummary } from '@/services/runs/summary'
import { serve } from '@/web/http'

export const POST = serve(routes.makePagesAgain, async ({ asked: { id: runId } }) => {
  await helpers().ask('makePagesAgain', { runId })
  return runSummary(context(), runId)
})
