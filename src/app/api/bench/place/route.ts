import { placeOnBench } from '@/server/bench'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { placeSchema, readBody } from '@/server/requests'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => placeOnBench(context(), await readBody(request, placeSchema)))
