import { context } from '@/server/context'
import { answer } from '@/server/http'
import { attachmentHeaders } from '@/server/responses'
import { zipOfRun } from '@/server/results'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { stream, name } = await zipOfRun(context(), (await params).id)
    return new Response(stream, { headers: attachmentHeaders(name, 'application/zip') })
  })
