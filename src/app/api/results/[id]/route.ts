import { readFile } from 'node:fs/promises'
import { context } from '@/server/context'
import { answer, optional } from '@/server/http'
import { thumbnail } from '@/server/pictures'
import { deliveredPath } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

/** A delivered picture: small with `?edge=320`, else the file itself. */
export const GET = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const path = deliveredPath(context(), Number((await params).id))
    const edge = optional(request, 'edge')
    const bytes = edge ? await thumbnail(context(), path, Number(edge)) : await readFile(context().roots.check(path))
    return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=60' } })
  })
