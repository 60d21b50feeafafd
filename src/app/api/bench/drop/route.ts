import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { maxDroppedBytes } from '@/services/dropped'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { withUpload } from '@/web/uploads'

export const POST = serve(routes.dropPicture, ({ asked: { name }, request }) =>
  withUpload(context(), request, { name, maxBytes: maxDroppedBytes }, (upload) => helpers().ask('keepDropped', { upload, name })),
)
