import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const POST = serve(routes.runDrop, ({ asked: { id: loopId, drop }, body: { answers } }) =>
  helpers().ask('runDrop', { loopId, drop, answers }),
)
