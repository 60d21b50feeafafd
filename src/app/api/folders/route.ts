import { helpers } from '@/services/helper/pool'
import { answer, optional } from '@/web/http'

export const GET = (request: Request): Promise<Response> => answer(() => helpers().ask('listFolder', { path: optional(request, 'path') }))
