import { keptFileGreeting } from '@/base/station-paths'
import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { keptBytes } from '@/services/kept-files'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.stationKeptFile, async ({ asked: { hash } }) => {
  if (hash === keptFileGreeting) return new Response(null, { status: 204 })
  return new Response(new Uint8Array(await keptBytes(context().dataFolder, hash)), {
    headers: { 'Content-Type': 'application/octet-stream' },
  })
})
