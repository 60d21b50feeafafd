import { helpers } from '@/services/helper/pool'
import type { RunWishes } from '@/services/runs/runs'
import { answer } from '@/web/http'
import { readBody, runWishesSchema } from '@/web/requests'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id: loopId } = await params
    const { answers } = await readBody<RunWishes>(request, runWishesSchema)
    return helpers().ask('tryLoop', { loopId, answers })
  })
