import { context } from '@/server/context'
import { answer, required } from '@/server/http'
import { sentAsset } from '@/server/kept-files'

export const GET = (request: Request, { params }: { params: Promise<{ hash: string }> }): Promise<Response> =>
  answer(
    async () =>
      new Response(await sentAsset(context(), (await params).hash, required(request, 'name')), {
        headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=31536000, immutable' },
      }),
  )
