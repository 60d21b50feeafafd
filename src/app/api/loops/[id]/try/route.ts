import { context } from '@/server/context'
import { answer } from '@/server/http'
import { loopById } from '@/server/loops'
import { readBody, runWishesSchema } from '@/server/requests'
import type { RunWishes } from '@/server/runs'
import { tryLoop } from '@/server/tries'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () =>
    tryLoop(context(), loopById(context(), (await params).id), (await readBody<RunWishes>(request, runWishesSchema)).answers),
  )
