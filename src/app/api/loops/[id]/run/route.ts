import { context } from '@/server/context'
import { answer } from '@/server/http'
import { loopById } from '@/server/loops'
import { readBody, runWishesSchema } from '@/server/requests'
import { type RunWishes, startRun } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => startRun(context(), loopById(context(), (await params).id), await readBody<RunWishes>(request, runWishesSchema)))
