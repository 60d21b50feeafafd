import { context } from '@/server/context'
import { answer, optionalWhole } from '@/server/http'
import { thumbnail } from '@/server/pictures'
import { shownResult } from '@/server/results'
import { deliveredPath } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

const forAWhile = { 'Cache-Control': 'private, max-age=60' }

/** A delivered picture: small with `?edge=320`, else pixel for pixel. */
export const GET = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const id = Number((await params).id)
    const edge = optionalWhole(request, 'edge', 16, 4096)
    if (edge === undefined) {
      const { bytes, type } = await shownResult(context(), id)
      return new Response(bytes, { headers: { 'Content-Type': type, ...forAWhile } })
    }
    const bytes = await thumbnail(context(), deliveredPath(context(), id), edge)
    return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', ...forAWhile } })
  })
