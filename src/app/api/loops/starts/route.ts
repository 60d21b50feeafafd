import { context } from '@/server/context'
import { answer } from '@/server/http'
import { standingStarts } from '@/server/loops'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => standingStarts(context()))
