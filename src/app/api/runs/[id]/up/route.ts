import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { moveRunUp } from '@/services/runs/control'
import { serve } from '@/web/http'

export const POST = serve(routes.moveRunUp, ({ asked: { id } }) => moveRunUp(context(), id))
