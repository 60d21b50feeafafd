import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { maxKeptBytes, withUpload } from '@/web/uploads'

export const POST = serve(routes.keepFile, ({ asked: { name }, request }) =>
  withUpload(context(), request, { name, maxBytes: maxKeptBytes }, (upload) => helpers().ask('keepFile', { upload, name })),
)
