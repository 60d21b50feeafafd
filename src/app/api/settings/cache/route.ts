import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { clearCache } from '@/services/settings'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = serve(routes.clearCache, async () => {
  await clearCache(context())
  return shownSettings()
})
