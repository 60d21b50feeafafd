import { context } from '@/services/context'
import { moveRunUp } from '@/services/runs/runs'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => moveRunUp(context(), (await params).id))
