import { context } from '@/services/context'
import { setMachine } from '@/services/settings'
import { answer } from '@/web/http'
import { machineSchema, readBody } from '@/web/requests'
import { shownSettings } from '@/web/shown-settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    await setMachine(context(), await readBody<{ workers?: number; cacheMb?: number }>(request, machineSchema))
    return shownSettings()
  })
