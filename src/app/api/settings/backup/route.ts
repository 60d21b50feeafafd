import { makeBackup } from '@/server/backups'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { shownSettings } from '@/server/shown-settings'

export const POST = (): Promise<Response> =>
  answer(async () => {
    await makeBackup(context())
    return shownSettings()
  })
