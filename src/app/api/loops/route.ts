import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { allLoops, saveLoop } from '@/services/loops'
import { serve } from '@/web/http'
import { windowOf } from '@/web/read-body'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.loops, () => allLoops(context()))

/** Stores a loop, new or changed. */
export const POST = serve(routes.saveLoop, ({ body, request }) => saveLoop(context(), body, windowOf(request)))
