import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { allLoops } from '@/services/loops'
import { keepMacro, shelf } from '@/services/macros'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.macros, () => shelf(context(), allLoops(context())))

export const POST = serve(routes.keepMacro, ({ body }) => keepMacro(context(), body))
