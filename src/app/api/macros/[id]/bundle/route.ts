import { routes } from '@/contract/routes'
import { exportBundle } from '@/services/bundles'
import { context } from '@/services/context'
import { macroById } from '@/services/macros'
import { serve } from '@/web/http'
import { attachment } from '@/web/responses'

export const GET = serve(routes.macroBundle, async ({ asked: { id } }) =>
  attachment(await exportBundle(context(), id), `${macroById(context(), id).name}.macro.zip`, 'application/zip'),
)
