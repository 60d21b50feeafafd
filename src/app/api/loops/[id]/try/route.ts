import { helpers } from '@/server/helper/pool'
import { answer } from '@/server/http'
import { readBody, runWishesSchema } from '@/server/requests'
import type { RunWishes } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id: loopId } = await params
    const { answers } = await readBody<RunWishes>(request, runWishesSchema)
    return helpers().ask('tryLoop', { loopId, answers })
  })
