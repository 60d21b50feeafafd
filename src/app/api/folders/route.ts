import { context } from '@/server/context'
import { listFolder } from '@/server/folders'
import { answer, optional } from '@/server/http'

export const GET = (request: Request): Promise<Response> => answer(() => listFolder(context(), optional(request, 'path')))
