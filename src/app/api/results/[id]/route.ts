import { readFile } from 'node:fs/promises'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { deliveredPath } from '@/services/runs/runs'
import { shownType } from '@/services/runs/shown-type'
import { answer, optionalWhole } from '@/web/http'
import { sendMade } from '@/web/send-file'

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
      const type = shownType(deliveredPath(context(), id))
      return sendMade(() => helpers().ask('shownResult', { id }, { signal: request.signal }), { 'Content-Type': type, ...forAWhile })
    }
    const bytes = await readFile(await helpers().ask('resultThumbnail', { id, edge }))
    return new Response(new Uint8Array(bytes), { headers: { 'Content-Type': 'image/jpeg', ...forAWhile } })
  })
