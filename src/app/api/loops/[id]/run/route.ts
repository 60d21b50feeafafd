import { context } from '@/server/context'
import { answer } from '@/server/http'
import { loopById } from '@/server/loops'
import { startRun } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => startRun(context(), loopById(context(), (await params).id)))
