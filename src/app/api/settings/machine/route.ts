import { context } from '@/server/context'
import { answer } from '@/server/http'
import { machineSchema, readBody } from '@/server/requests'
import { setMachine } from '@/server/settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => setMachine(context(), await readBody<{ workers?: number; cacheMb?: number }>(request, machineSchema)))
