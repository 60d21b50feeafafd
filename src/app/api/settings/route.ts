import { routes } from '@/contract/routes'
import { serve } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.settings, shownSettings)
