import { helpers } from '@/server/helper/pool'
import { answer, optionalWhole, required } from '@/server/http'
import { sendMade } from '@/server/sent-files'

export const GET = (request: Request): Promise<Response> =>
  answer(() => {
    const args = { path: required(request, 'path'), edge: optionalWhole(request, 'edge', 16, 4096) }
    return sendMade(() => helpers().ask('pixels', args, { signal: request.signal }), {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'no-store',
    })
  })
