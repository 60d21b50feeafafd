import { context } from '@/services/context'
import { startRunNow } from '@/services/runs/runs'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => startRunNow(context(), (await params).id))
