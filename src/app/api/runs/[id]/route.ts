import { context } from '@/server/context'
import { answer } from '@/server/http'
import { runDetail } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id } = await params
    return runDetail(context(), id)
  })
