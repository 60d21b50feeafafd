import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { openDrop } from '@/services/inbox'
import { serve } from '@/web/http'

export const POST = serve(routes.openDrop, ({ asked: { id }, body: { bytes } }) => openDrop(context(), id, bytes))
