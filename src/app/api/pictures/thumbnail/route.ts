import { readFile } from 'node:fs/promises'
import { helpers } from '@/services/helper/pool'
import { answer, optionalWhole, required } from '@/web/http'

export const GET = (request: Request): Promise<Response> =>
  answer(async () => {
    const path = await helpers().ask('thumbnail', {
      path: required(request, 'path'),
      edge: optionalWhole(request, 'edge', 16, 4096) ?? 320,
    })
    const bytes = await readFile(path)
    return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=60' } })
  })
