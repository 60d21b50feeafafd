import type { Macro } from '@/macro/macro'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { allLoops } from '@/server/loops'
import { keepMacro, shelf } from '@/server/macros'
import { keepSchema, readBody } from '@/server/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => shelf(context(), allLoops(context())))

export const POST = (request: Request): Promise<Response> =>
  answer(async () => keepMacro(context(), await readBody<Macro>(request, keepSchema)))
