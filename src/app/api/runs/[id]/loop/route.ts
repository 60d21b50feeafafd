import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { loopOfRun } from '@/services/loop-files'
import { serve } from '@/web/http'

export const POST = serve(routes.loopOfRun, ({ asked: { id } }) => loopOfRun(context(), id))
