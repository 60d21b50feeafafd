import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { dropLostSteps } from '@/services/touch-up-files'
import { serve } from '@/web/http'

export const POST = serve(routes.dropLostSteps, ({ asked: { id } }) => ({ pictures: dropLostSteps(context(), id) }))
