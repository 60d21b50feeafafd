import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { loopById } from '@/services/loops'
import { exportTouchUps } from '@/services/touch-up-files'
import { serve } from '@/web/http'
import { attachment } from '@/web/responses'

export const GET = serve(routes.touchUpFile, ({ asked: { id } }) =>
  attachment(exportTouchUps(context(), id), `${loopById(context(), id).name}.touch-ups.json`, 'application/json'),
)
