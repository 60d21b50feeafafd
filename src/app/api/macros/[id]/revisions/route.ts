import { context } from '@/services/context'
import { macroRevisions } from '@/services/macros'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => macroRevisions(context(), (await params).id))
