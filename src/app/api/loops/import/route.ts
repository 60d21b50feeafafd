import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { maxBundleBytes, withUpload } from '@/web/uploads'

export const POST = serve(routes.importLoop, ({ asked: { name }, request }) =>
  withUpload(context(), request, { name, maxBytes: maxBundleBytes }, (upload) => helpers().ask('importLoop', { upload, name })),
)
