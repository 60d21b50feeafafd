import { context } from '@/server/context'
import { answer } from '@/server/http'
import { binned, restoreMacro } from '@/server/macros'
import { readBody, restoreSchema } from '@/server/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => binned(context()))

/** Takes a macro back out. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => restoreMacro(context(), (await readBody<{ id: string }>(request, restoreSchema)).id))
