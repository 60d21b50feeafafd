import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { describeMacro } from '@/services/macros'
import { serve } from '@/web/http'

export const POST = serve(routes.describeMacro, ({ asked: { id }, body }) => describeMacro(context(), id, body))
