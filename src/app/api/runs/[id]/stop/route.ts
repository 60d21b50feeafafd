import { context } from '@/server/context'
import { answer } from '@/server/http'
import { stopRun } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => stopRun(context(), (await params).id))
