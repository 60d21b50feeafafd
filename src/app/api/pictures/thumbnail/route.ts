import { readFile } from 'node:fs/promises'
import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const GET = serve(routes.thumbnail, async ({ asked: { path, edge = 320 } }) => {
  const bytes = await readFile(await helpers().ask('thumbnail', { path, edge }))
  return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=60' } })
})
