import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { importMacro } from '@/services/macros'
import { serve } from '@/web/http'

export const POST = serve(routes.importMacro, ({ body: { text } }) => importMacro(context(), text))
