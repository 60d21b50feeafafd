import { context } from '@/services/context'
import { pauseRun } from '@/services/runs/runs'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

export const POST = (_: Request, { params }: WithId): Promise<Response> => answer(async () => pauseRun(context(), (await params).id))
