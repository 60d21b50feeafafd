import { context } from '@/services/context'
import { standingStarts } from '@/services/loops'
import { answer } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => standingStarts(context()))
