import { context } from '@/server/context'
import { answer } from '@/server/http'
import { importMacro } from '@/server/macros'
import { importSchema, readBody } from '@/server/requests'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => importMacro(context(), (await readBody<{ text: string }>(request, importSchema)).text))
