import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { sendMade } from '@/web/send-file'

export const GET = serve(routes.keptFile, ({ asked }) =>
  sendMade(() => helpers().ask('asset', asked), {
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'private, max-age=31536000, immutable',
  }),
)
