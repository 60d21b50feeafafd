import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { clearInbox, keepInboxFor } from '@/services/inbox'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = serve(routes.setInbox, async ({ body: { keptDays, clear } }) => {
  if (keptDays !== undefined) keepInboxFor(context(), keptDays)
  if (clear) await clearInbox(context())
  return shownSettings()
})
