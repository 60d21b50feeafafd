import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'
import { sendMade } from '@/web/send-file'

export const GET = serve(routes.pixels, ({ asked, request }) =>
  sendMade(() => helpers().ask('pixels', asked, { signal: request.signal }), {
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'no-store',
  }),
)
