import { helpers } from '@/services/helper/pool'
import { answer, optionalWhole, required } from '@/web/http'
import { sendMade } from '@/web/send-file'

export const GET = (request: Request): Promise<Response> =>
  answer(() => {
    const args = { path: required(request, 'path'), edge: optionalWhole(request, 'edge', 16, 4096) }
    return sendMade(() => helpers().ask('pixels', args, { signal: request.signal }), {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'no-store',
    })
  })
