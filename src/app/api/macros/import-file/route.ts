import { importSentFile } from '@/server/bundles'
import { context } from '@/server/context'
import { answer, required } from '@/server/http'

export const POST = (request: Request): Promise<Response> => answer(() => importSentFile(context(), request, required(request, 'name')))
