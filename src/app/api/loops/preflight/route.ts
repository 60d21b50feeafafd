import { helpers } from '@/services/helper/pool'
import { answer } from '@/web/http'
import { streamPreflight } from '@/web/preflight-stream'
import { readLoop } from '@/web/requests'

/** Checks a loop as it stands on the page, saved or not. Lines of JSON: how far it is, then what was found. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const loop = await readLoop(request)
    const lines = streamPreflight((options) => helpers().ask('preflight', { loop }, options), request.signal)
    return new Response(lines, { headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' } })
  })
