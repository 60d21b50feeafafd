import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { goOnWithRun } from '@/services/runs/control'
import { serve } from '@/web/http'

export const POST = serve(routes.goOn, ({ asked: { id } }) => goOnWithRun(context(), id))
