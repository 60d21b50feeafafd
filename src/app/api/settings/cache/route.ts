import { context } from '@/services/context'
import { clearCache } from '@/services/settings'
import { answer } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = (): Promise<Response> =>
  answer(async () => {
    await clearCache(context())
    return shownSettings()
  })
