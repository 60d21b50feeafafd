import { context } from '@/server/context'
import { answer } from '@/server/http'
import { startRunNow } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => startRunNow(context(), (await params).id))
