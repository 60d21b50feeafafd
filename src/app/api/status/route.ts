import { context } from '@/server/context'
import { answer } from '@/server/http'
import { isRunnerAway } from '@/server/runs'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => ({ runnerAway: isRunnerAway(context()), roots: context().roots.paths }))
