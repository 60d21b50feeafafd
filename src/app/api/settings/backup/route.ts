import { makeBackup } from '@/server/backups'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { settingsView } from '@/server/settings'

export const POST = (): Promise<Response> =>
  answer(async () => {
    await makeBackup(context())
    return settingsView(context())
  })
