import { helpers } from '@/server/helper/pool'
import { answer } from '@/server/http'
import { attachmentHeaders } from '@/server/responses'
import { zipOf } from '@/server/zip-of-run'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { entries, name } = await helpers().ask('zipEntries', { runId: (await params).id })
    return new Response(zipOf(entries), { headers: attachmentHeaders(name, 'application/zip') })
  })
