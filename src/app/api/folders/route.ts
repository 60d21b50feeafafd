import { helpers } from '@/server/helper/pool'
import { answer, optional } from '@/server/http'

export const GET = (request: Request): Promise<Response> => answer(() => helpers().ask('listFolder', { path: optional(request, 'path') }))
