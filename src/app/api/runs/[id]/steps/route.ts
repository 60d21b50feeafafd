import { context } from '@/services/context'
import { runSteps } from '@/services/runs/runs'
import { answer } from '@/web/http'

interface WithId {
  params: Promise<{ id: string }>
}

/** What the run put its pictures through. */
export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => runSteps(context(), (await params).id))
