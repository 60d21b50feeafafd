import { context } from '@/server/context'
import { answer } from '@/server/http'
import { lastRuns } from '@/server/runs'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => lastRuns(context()))
