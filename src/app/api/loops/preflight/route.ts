import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { streamPreflight } from '@/web/preflight-stream'

export const POST = serve(routes.preflight, ({ body: loop, request }) => {
  const lines = streamPreflight((options) => helpers().ask('preflight', { loop }, options), request.signal)
  return new Response(lines, { headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' } })
})
