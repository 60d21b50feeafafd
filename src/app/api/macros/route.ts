import type { Macro } from '@/macros/macro'
import { context } from '@/services/context'
import { allLoops } from '@/services/loops'
import { keepMacro, shelf } from '@/services/macros'
import { answer } from '@/web/http'
import { keepSchema, readBody } from '@/web/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => shelf(context(), allLoops(context())))

export const POST = (request: Request): Promise<Response> =>
  answer(async () => keepMacro(context(), await readBody<Macro>(request, keepSchema)))
