import { helpers } from '@/services/helper/pool'
import { zipOf } from '@/services/runs/zip-of-run'
import { answer } from '@/web/http'
import { attachmentHeaders } from '@/web/responses'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { entries, name } = await helpers().ask('zipEntries', { runId: (await params).id })
    return new Response(zipOf(entries), { headers: attachmentHeaders(name, 'application/zip') })
  })
