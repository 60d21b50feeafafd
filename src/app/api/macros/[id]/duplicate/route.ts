import { context } from '@/server/context'
import { answer } from '@/server/http'
import { duplicateMacro } from '@/server/macros'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => duplicateMacro(context(), (await params).id))
