import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const POST = serve(routes.makePages, ({ body: pages }) => helpers().ask('makePages', pages))
