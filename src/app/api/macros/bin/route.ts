import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { binned, restoreMacro } from '@/services/macros'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.bin, () => binned(context()))

export const POST = serve(routes.restoreMacro, ({ body: { id } }) => restoreMacro(context(), id))
