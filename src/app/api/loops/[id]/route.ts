import { context } from '@/server/context'
import { answer } from '@/server/http'
import { binLoop, loopById } from '@/server/loops'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => loopById(context(), (await params).id))

export const DELETE = (_: Request, { params }: WithId): Promise<Response> => answer(async () => binLoop(context(), (await params).id))
