import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { pauseRun } from '@/services/runs/control'
import { serve } from '@/web/http'

export const POST = serve(routes.pauseRun, ({ asked: { id } }) => pauseRun(context(), id))
