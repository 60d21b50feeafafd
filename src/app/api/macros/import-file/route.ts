import { context } from '@/server/context'
import { helpers } from '@/server/helper/pool'
import { answer, required } from '@/server/http'
import { maxBundleBytes, withUpload } from '@/server/uploads'

export const POST = (request: Request): Promise<Response> =>
  answer(() => {
    const name = required(request, 'name')
    return withUpload(context(), request, name, maxBundleBytes, (upload) => helpers().ask('importMacro', { upload, name }))
  })
