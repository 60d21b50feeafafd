import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { setMachine } from '@/services/settings'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = serve(routes.setMachine, async ({ body }) => {
  await setMachine(context(), body)
  return shownSettings()
})
