import { readBench } from '@/server/bench'
import { context } from '@/server/context'
import { answer } from '@/server/http'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => readBench(context()))
