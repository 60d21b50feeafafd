import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { zipOf } from '@/services/runs/zip-of-run'
import { serve } from '@/web/http'
import { attachmentHeaders } from '@/web/responses'

export const GET = serve(routes.zip, async ({ asked: { id: runId } }) => {
  const { entries, name } = await helpers().ask('zipEntries', { runId })
  return new Response(zipOf(entries), { headers: attachmentHeaders(name, 'application/zip') })
})
