import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { binLoop, loopById } from '@/services/loops'
import { serve } from '@/web/http'

export const GET = serve(routes.loop, ({ asked: { id } }) => loopById(context(), id))

export const DELETE = serve(routes.binLoop, ({ asked: { id } }) => binLoop(context(), id))
