import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const GET = serve(routes.places, ({ asked }) => helpers().ask('listPlaces', asked))
