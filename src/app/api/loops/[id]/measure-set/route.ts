import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { measureSetAnew } from '@/services/measure-set'
import { serve } from '@/web/http'

export const POST = serve(routes.measureSetAnew, ({ asked: { id } }) => ({ forgotten: measureSetAnew(context(), id) }))
