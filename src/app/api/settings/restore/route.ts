import { restoreBackup } from '@/server/backups'
import { context, reopenRoots } from '@/server/context'
import { answer } from '@/server/http'
import { backupSchema, readBody } from '@/server/requests'
import { shownSettings } from '@/server/shown-settings'

/** Goes back to a copy of the database. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    await restoreBackup(context(), (await readBody<{ name: string }>(request, backupSchema)).name)
    reopenRoots(context())
    return shownSettings()
  })
