import { context } from '@/server/context'
import { answer } from '@/server/http'
import { moveRunUp } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => moveRunUp(context(), (await params).id))
