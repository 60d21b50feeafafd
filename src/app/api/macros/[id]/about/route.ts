import type { Macro } from '@/macros/macro'
import { context } from '@/services/context'
import { describeMacro } from '@/services/macros'
import { answer } from '@/web/http'
import { aboutSchema, readBody } from '@/web/requests'

interface WithId {
  params: Promise<{ id: string }>
}

/** Changes name, notes and tags. */
export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () =>
    describeMacro(context(), (await params).id, await readBody<Pick<Macro, 'name' | 'notes' | 'tags'>>(request, aboutSchema)),
  )
