import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { runDetail } from '@/services/runs/summary'
import { serve } from '@/web/http'

export const GET = serve(routes.run, ({ asked: { id } }) => runDetail(context(), id))
