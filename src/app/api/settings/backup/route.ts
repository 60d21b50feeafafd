import { routes } from '@/contract/routes'
import { makeBackup } from '@/services/backups'
import { context } from '@/services/context'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = serve(routes.makeBackup, async () => {
  await makeBackup(context())
  return shownSettings()
})
