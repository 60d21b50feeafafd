import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const POST = serve(routes.startRun, ({ asked: { id: loopId }, body: wishes }) => helpers().ask('startRun', { loopId, wishes }))
