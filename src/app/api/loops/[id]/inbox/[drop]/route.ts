import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { forgetDrop, maxInboxBytes } from '@/services/inbox'
import { serve } from '@/web/http'
import { withUpload } from '@/web/uploads'

export const POST = serve(routes.sendToDrop, ({ asked: { id: loopId, drop, name }, request }) =>
  withUpload(context(), request, { name, maxBytes: maxInboxBytes }, (upload) =>
    helpers().ask('takeIntoInbox', { loopId, drop, name, upload }),
  ),
)

export const DELETE = serve(routes.forgetDrop, ({ asked: { id, drop } }) => forgetDrop(context(), id, drop))
