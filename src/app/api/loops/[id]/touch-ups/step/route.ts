import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { stepTouchUp } from '@/services/touch-ups'
import { serve } from '@/web/http'

export const POST = serve(routes.stepTouchUp, ({ asked: { id: loopId }, body: { by, ...which } }) =>
  stepTouchUp(context(), { loopId, ...which }, by),
)
