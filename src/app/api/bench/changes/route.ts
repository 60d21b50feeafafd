import { routes } from '@/contract/routes'
import { extendBench } from '@/services/bench'
import { context } from '@/services/context'
import { serve } from '@/web/http'

export const POST = serve(routes.extendBench, ({ body }) => extendBench(context(), body))
