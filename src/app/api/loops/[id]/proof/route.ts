import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.proof, ({ asked: { id: loopId } }) => helpers().ask('proof', { loopId }))
