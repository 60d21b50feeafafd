import { context } from '@/server/context'
import { answer, required } from '@/server/http'
import { pickSpread } from '@/server/spread'

export const GET = (request: Request): Promise<Response> => answer(() => pickSpread(context(), required(request, 'folder')))
