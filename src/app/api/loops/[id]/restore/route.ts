import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { restoreLoop } from '@/services/loops'
import { serve } from '@/web/http'

export const POST = serve(routes.restoreLoop, ({ asked: { id } }) => restoreLoop(context(), id))
