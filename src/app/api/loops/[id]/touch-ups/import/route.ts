import { routes } from '@/contract/routes'
import { maxTouchUpFileBytes } from '@/jobs/touch-up-file'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { withUpload } from '@/web/uploads'

export const POST = serve(routes.importTouchUps, ({ asked: { id: loopId, name }, request }) =>
  withUpload(context(), request, { name, maxBytes: maxTouchUpFileBytes }, (upload) => helpers().ask('importTouchUps', { loopId, upload })),
)
