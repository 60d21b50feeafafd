import { context } from '@/services/context'
import { runDetail } from '@/services/runs/runs'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id } = await params
    return runDetail(context(), id)
  })
