import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const POST = serve(routes.tryLoop, ({ asked: { id: loopId }, body: { answers } }) => helpers().ask('tryLoop', { loopId, answers }))
