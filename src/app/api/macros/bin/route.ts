import { context } from '@/services/context'
import { binned, restoreMacro } from '@/services/macros'
import { answer } from '@/web/http'
import { readBody, restoreSchema } from '@/web/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => binned(context()))

/** Takes a macro back out. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => restoreMacro(context(), (await readBody<{ id: string }>(request, restoreSchema)).id))
