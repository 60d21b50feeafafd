import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { startRunNow } from '@/services/runs/control'
import { serve } from '@/web/http'

export const POST = serve(routes.startRunNow, ({ asked: { id } }) => startRunNow(context(), id))
