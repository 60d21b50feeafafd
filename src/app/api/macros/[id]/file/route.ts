import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { exportMacro, macroById } from '@/services/macros'
import { serve } from '@/web/http'
import { attachment } from '@/web/responses'

export const GET = serve(routes.macroFile, ({ asked: { id } }) =>
  attachment(exportMacro(context(), id), `${macroById(context(), id).name}.macro.json`, 'application/json'),
)
