import { extendBench } from '@/server/bench'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { readBenchEdit } from '@/server/requests'

export const POST = (request: Request): Promise<Response> => answer(async () => extendBench(context(), await readBenchEdit(request)))
