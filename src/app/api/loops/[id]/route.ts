import { context } from '@/services/context'
import { binLoop, loopById } from '@/services/loops'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => loopById(context(), (await params).id))

export const DELETE = (_: Request, { params }: WithId): Promise<Response> => answer(async () => binLoop(context(), (await params).id))
