import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { stationsView } from '@/services/stations'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.stations, () => stationsView(context()))
