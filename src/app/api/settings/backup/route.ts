import { makeBackup } from '@/services/backups'
import { context } from '@/services/context'
import { answer } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const POST = (): Promise<Response> =>
  answer(async () => {
    await makeBackup(context())
    return shownSettings()
  })
