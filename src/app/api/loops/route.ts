import { context } from '@/services/context'
import { allLoops, saveLoop } from '@/services/loops'
import { answer } from '@/web/http'
import { readLoop, windowOf } from '@/web/requests'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => allLoops(context()))

/** Stores a loop, new or changed. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => saveLoop(context(), await readLoop(request), windowOf(request)))
