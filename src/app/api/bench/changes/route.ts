import { extendBench } from '@/services/bench'
import { context } from '@/services/context'
import { answer } from '@/web/http'
import { readBenchEdit } from '@/web/requests'

export const POST = (request: Request): Promise<Response> => answer(async () => extendBench(context(), await readBenchEdit(request)))
