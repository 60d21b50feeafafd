import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { touchUpsOf } from '@/services/touch-ups'
import { serve } from '@/web/http'

export const GET = serve(routes.touchUps, ({ asked: { id } }) => touchUpsOf(context(), id))

export const POST = serve(routes.touchUp, ({ asked: { id: loopId }, body }) => helpers().ask('touchUpPicture', { loopId, ...body }))
