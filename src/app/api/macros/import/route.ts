import { context } from '@/services/context'
import { importMacro } from '@/services/macros'
import { answer } from '@/web/http'
import { importSchema, readBody } from '@/web/requests'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => importMacro(context(), (await readBody<{ text: string }>(request, importSchema)).text))
