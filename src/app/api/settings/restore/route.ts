import { routes } from '@/contract/routes'
import { restoreBackup } from '@/services/backups'
import { context, reopenRoots } from '@/services/context'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

/** Goes back to a copy of the database. */
export const POST = serve(routes.restoreBackup, async ({ body: { name } }) => {
  await restoreBackup(context(), name)
  reopenRoots(context())
  return shownSettings()
})
