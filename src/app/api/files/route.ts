import { context } from '@/server/context'
import { answer, required } from '@/server/http'
import { keepSentFile } from '@/server/kept-files'

export const POST = (request: Request): Promise<Response> => answer(() => keepSentFile(context(), request, required(request, 'name')))
