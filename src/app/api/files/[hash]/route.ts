import { helpers } from '@/services/helper/pool'
import { answer, required } from '@/web/http'
import { sendMade } from '@/web/send-file'

export const GET = (request: Request, { params }: { params: Promise<{ hash: string }> }): Promise<Response> =>
  answer(async () => {
    const { hash } = await params
    const name = required(request, 'name')
    return sendMade(() => helpers().ask('asset', { hash, name }), {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'private, max-age=31536000, immutable',
    })
  })
