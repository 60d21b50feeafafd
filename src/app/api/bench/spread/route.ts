import { helpers } from '@/server/helper/pool'
import { answer, required } from '@/server/http'

export const GET = (request: Request): Promise<Response> => answer(() => helpers().ask('spread', { folder: required(request, 'folder') }))
