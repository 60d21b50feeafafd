import { helpers } from '@/server/helper/pool'
import { answer } from '@/server/http'
import { streamPreflight } from '@/server/preflight-stream'
import { readLoop } from '@/server/requests'

/** Checks a loop as it stands on the page, saved or not. Lines of JSON: how far it is, then what was found. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const loop = await readLoop(request)
    const lines = streamPreflight((options) => helpers().ask('preflight', { loop }, options), request.signal)
    return new Response(lines, { headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' } })
  })
