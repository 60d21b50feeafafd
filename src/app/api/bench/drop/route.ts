import { context } from '@/server/context'
import { keepDropped } from '@/server/dropped'
import { answer, required } from '@/server/http'

export const POST = (request: Request): Promise<Response> => answer(() => keepDropped(context(), request, required(request, 'name')))
