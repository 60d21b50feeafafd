import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { duplicateMacro } from '@/services/macros'
import { serve } from '@/web/http'

export const POST = serve(routes.duplicateMacro, ({ asked: { id } }) => duplicateMacro(context(), id))
