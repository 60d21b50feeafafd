import { context } from '@/server/context'
import { maxDroppedBytes } from '@/server/dropped'
import { helpers } from '@/server/helper/pool'
import { answer, required } from '@/server/http'
import { withUpload } from '@/server/uploads'

export const POST = (request: Request): Promise<Response> =>
  answer(() => {
    const name = required(request, 'name')
    return withUpload(context(), request, name, maxDroppedBytes, (upload) => helpers().ask('keepDropped', { upload, name }))
  })
