import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { nameRoots } from '@/services/settings'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = serve(routes.nameRoots, async ({ body: { roots: paths } }) => {
  nameRoots(context(), await helpers().ask('checkRoots', { paths }))
  return shownSettings()
})
