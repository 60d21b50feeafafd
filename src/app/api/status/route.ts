import { context } from '@/server/context'
import { answer } from '@/server/http'
import { runnerState } from '@/server/runner-watch'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => ({ runner: runnerState(context()), roots: context().roots.paths }))
