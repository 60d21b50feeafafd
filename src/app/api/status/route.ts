import { context } from '@/services/context'
import { runnerState } from '@/services/runner-watch'
import { answer } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => ({ runner: runnerState(context()), roots: context().roots.paths }))
