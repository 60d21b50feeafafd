import { context } from '@/services/context'
import { duplicateMacro } from '@/services/macros'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => duplicateMacro(context(), (await params).id))
