import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { macroRevisions } from '@/services/macros'
import { serve } from '@/web/http'

export const GET = serve(routes.revisions, ({ asked: { id } }) => macroRevisions(context(), id))
