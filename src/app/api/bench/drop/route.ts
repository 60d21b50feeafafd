import { context } from '@/services/context'
import { maxDroppedBytes } from '@/services/dropped'
import { helpers } from '@/services/helper/pool'
import { answer, required } from '@/web/http'
import { withUpload } from '@/web/uploads'

export const POST = (request: Request): Promise<Response> =>
  answer(() => {
    const name = required(request, 'name')
    return withUpload(context(), request, name, maxDroppedBytes, (upload) => helpers().ask('keepDropped', { upload, name }))
  })
