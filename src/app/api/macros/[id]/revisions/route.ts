import { context } from '@/server/context'
import { answer } from '@/server/http'
import { macroRevisions } from '@/server/macros'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => macroRevisions(context(), (await params).id))
