import { AppError } from '@/core/errors'
import { context } from '@/server/context'
import { answer, required } from '@/server/http'
import { sourcePixels } from '@/server/pictures'

/** Reduced copies are for looking: between a stamp's size and a screen's. */
function edgeOf(request: Request): number | undefined {
  const text = new URL(request.url).searchParams.get('edge')
  if (text === null) return undefined
  const edge = Number(text)
  if (!Number.isInteger(edge) || edge < 16 || edge > 4096) throw new AppError('badRequest', { reason: 'edge must be 16 to 4096' })
  return edge
}

export const GET = (request: Request): Promise<Response> =>
  answer(
    async () =>
      new Response(await sourcePixels(context(), required(request, 'path'), edgeOf(request)), {
        headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' },
      }),
  )
