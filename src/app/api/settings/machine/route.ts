import { context } from '@/server/context'
import { answer } from '@/server/http'
import { machineSchema, readBody } from '@/server/requests'
import { setMachine } from '@/server/settings'
import { shownSettings } from '@/server/shown-settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    await setMachine(context(), await readBody<{ workers?: number; cacheMb?: number }>(request, machineSchema))
    return shownSettings()
  })
