import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { runnerState } from '@/services/runner-watch'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.status, () => ({ runner: runnerState(context()), roots: context().roots.paths }))
