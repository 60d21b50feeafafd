import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { standingStarts } from '@/services/loops'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.starts, () => standingStarts(context()))
