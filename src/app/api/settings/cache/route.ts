import { context } from '@/server/context'
import { answer } from '@/server/http'
import { clearCache } from '@/server/settings'
import { shownSettings } from '@/server/shown-settings'

export const POST = (): Promise<Response> =>
  answer(async () => {
    await clearCache(context())
    return shownSettings()
  })
