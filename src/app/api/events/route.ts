import { context } from '@/services/context'
import { followRuns } from '@/web/events'

export const dynamic = 'force-dynamic'

export function GET(request: Request): Response {
  return new Response(followRuns(context(), request.signal), {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store, no-transform', Connection: 'keep-alive' },
  })
}
