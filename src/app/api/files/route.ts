import { context } from '@/server/context'
import { helpers } from '@/server/helper/pool'
import { answer, required } from '@/server/http'
import { maxKeptBytes, withUpload } from '@/server/uploads'

export const POST = (request: Request): Promise<Response> =>
  answer(() => {
    const name = required(request, 'name')
    return withUpload(context(), request, name, maxKeptBytes, (upload) => helpers().ask('keepFile', { upload, name }))
  })
