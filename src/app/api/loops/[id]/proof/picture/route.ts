import { readFile } from 'node:fs/promises'
import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const GET = serve(routes.proofPicture, async ({ asked: { id: loopId, path } }) => {
  const { file } = await helpers().ask('proofSmall', { loopId, path })
  return new Response(new Uint8Array(await readFile(file)), {
    headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=3600' },
  })
})
