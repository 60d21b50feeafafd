import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { moveRunUp } from '@/services/runs/runs'
import { serve } from '@/web/http'

export const POST = serve(routes.moveRunUp, ({ asked: { id } }) => moveRunUp(context(), id))
