import { context } from '@/server/context'
import { answer } from '@/server/http'
import { pauseRun } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => pauseRun(context(), (await params).id))
