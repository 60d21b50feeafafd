import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { runSteps } from '@/services/runs/summary'
import { serve } from '@/web/http'

export const GET = serve(routes.runSteps, ({ asked: { id } }) => runSteps(context(), id))
