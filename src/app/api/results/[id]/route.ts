import { readFile } from 'node:fs/promises'
import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { shownType } from '@/services/runs/shown-type'
import { deliveredPath } from '@/services/runs/summary'
import { serve } from '@/web/http'
import { sendMade } from '@/web/send-file'

const forAWhile = { 'Cache-Control': 'private, max-age=60' }

export const GET = serve(routes.result, async ({ asked: { id: asked, edge }, request }) => {
  const id = Number(asked)
  if (edge === undefined) {
    const type = shownType(deliveredPath(context(), id))
    return sendMade(() => helpers().ask('shownResult', { id }, { signal: request.signal }), { 'Content-Type': type, ...forAWhile })
  }
  const bytes = await readFile(await helpers().ask('resultThumbnail', { id, edge }))
  return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', ...forAWhile } })
})
