import { routes } from '@/contract/routes'
import { layOnBench } from '@/services/bench'
import { context } from '@/services/context'
import { serve } from '@/web/http'

export const POST = serve(routes.layOnBench, ({ body }) => layOnBench(context(), body))
