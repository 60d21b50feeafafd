import { routes } from '@/contract/routes'
import { readBench } from '@/services/bench'
import { context } from '@/services/context'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.bench, () => readBench(context()))
