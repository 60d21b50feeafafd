import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { exportLoop } from '@/services/loop-files'
import { loopById } from '@/services/loops'
import { serve } from '@/web/http'
import { attachment } from '@/web/responses'

export const GET = serve(routes.loopFile, async ({ asked: { id } }) =>
  attachment(await exportLoop(context(), id), `${loopById(context(), id).name}.loop.zip`, 'application/zip'),
)
