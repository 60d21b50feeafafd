import { context } from '@/server/context'
import { answer } from '@/server/http'
import { streamPreflight } from '@/server/preflight-view'
import { readLoop } from '@/server/requests'

/** Checks a loop as it stands on the page, saved or not. Lines of JSON: how far it is, then what was found. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const lines = streamPreflight(context(), await readLoop(request), request.signal)
    return new Response(lines, { headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' } })
  })
