import { context } from '@/services/context'
import { lastRuns } from '@/services/runs/runs'
import { answer } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => lastRuns(context()))
