import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { stopRun } from '@/services/runs/control'
import { serve } from '@/web/http'

export const POST = serve(routes.stopRun, ({ asked: { id } }) => stopRun(context(), id))
