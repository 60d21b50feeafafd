import { context } from '@/server/context'
import { answer, optional, required } from '@/server/http'
import { thumbnail } from '@/server/pictures'

export const GET = (request: Request): Promise<Response> =>
  answer(async () => {
    const bytes = await thumbnail(context(), required(request, 'path'), Number(optional(request, 'edge') ?? 320))
    return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=60' } })
  })
