import { context } from '@/server/context'
import { answer } from '@/server/http'
import { runSteps } from '@/server/runs'

interface WithId {
  params: Promise<{ id: string }>
}

/** What the run put its pictures through. */
export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => runSteps(context(), (await params).id))
