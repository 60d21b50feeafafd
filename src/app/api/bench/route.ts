import { readBench } from '@/services/bench'
import { context } from '@/services/context'
import { answer } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => readBench(context()))
