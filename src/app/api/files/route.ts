import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { answer, required } from '@/web/http'
import { maxKeptBytes, withUpload } from '@/web/uploads'

export const POST = (request: Request): Promise<Response> =>
  answer(() => {
    const name = required(request, 'name')
    return withUpload(context(), request, name, maxKeptBytes, (upload) => helpers().ask('keepFile', { upload, name }))
  })
