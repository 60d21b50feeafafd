import type { Macro } from '@/macro/macro'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { describeMacro } from '@/server/macros'
import { aboutSchema, readBody } from '@/server/requests'

interface WithId {
  params: Promise<{ id: string }>
}

/** Changes name, notes and tags. */
export const POST = (request: Request, { params }: WithId): Promise<Response> =>
  answer(async () =>
    describeMacro(context(), (await params).id, await readBody<Pick<Macro, 'name' | 'notes' | 'tags'>>(request, aboutSchema)),
  )
