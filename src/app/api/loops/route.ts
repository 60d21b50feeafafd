import { context } from '@/server/context'
import { answer } from '@/server/http'
import { allLoops, saveLoop } from '@/server/loops'
import { readLoop, windowOf } from '@/server/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => allLoops(context()))

/** Stores a loop, new or changed. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => saveLoop(context(), await readLoop(request), windowOf(request)))
