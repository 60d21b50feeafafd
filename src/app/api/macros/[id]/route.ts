import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { binMacro, macroById, reviseMacro } from '@/services/macros'
import { serve } from '@/web/http'

export const GET = serve(routes.macro, ({ asked: { id } }) => macroById(context(), id))

export const POST = serve(routes.reviseMacro, ({ asked: { id }, body: { steps } }) => reviseMacro(context(), id, steps))

export const DELETE = serve(routes.binMacro, ({ asked: { id } }) => binMacro(context(), id))
