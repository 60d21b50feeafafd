import { placeOnBench } from '@/services/bench'
import { context } from '@/services/context'
import { answer } from '@/web/http'
import { placeSchema, readBody } from '@/web/requests'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => placeOnBench(context(), await readBody(request, placeSchema)))
