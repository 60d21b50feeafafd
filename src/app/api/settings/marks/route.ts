import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { setSilentMarks } from '@/services/settings'
import { serve } from '@/web/http'

export const POST = serve(routes.setSilentMarks, ({ body: { silent } }) => setSilentMarks(context(), silent))
