import type { Step } from '@/macros/step'
import { context } from '@/services/context'
import { binMacro, macroById, reviseMacro } from '@/services/macros'
import { answer } from '@/web/http'
import { readBody, reviseSchema } from '@/web/requests'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> => answer(async () => macroById(context(), (await params).id))

/** Keeps new steps as the next revision. */
export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () => reviseMacro(context(), (await params).id, (await readBody<{ steps: Step[] }>(request, reviseSchema)).steps))

export const DELETE = (_: Request, { params }: WithId): Promise<Response> => answer(async () => binMacro(context(), (await params).id))
