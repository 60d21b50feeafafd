import { context } from '@/server/context'
import { answer, optionalWhole, required } from '@/server/http'
import { sourcePixels } from '@/server/pictures'

export const GET = (request: Request): Promise<Response> =>
  answer(
    async () =>
      new Response(await sourcePixels(context(), required(request, 'path'), optionalWhole(request, 'edge', 16, 4096)), {
        headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' },
      }),
  )
