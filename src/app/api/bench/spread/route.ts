import { helpers } from '@/services/helper/pool'
import { answer, required } from '@/web/http'

export const GET = (request: Request): Promise<Response> => answer(() => helpers().ask('spread', { folder: required(request, 'folder') }))
