import { restoreBackup } from '@/services/backups'
import { context, reopenRoots } from '@/services/context'
import { answer } from '@/web/http'
import { backupSchema, readBody } from '@/web/requests'
import { shownSettings } from '@/web/shown-settings'

/** Goes back to a copy of the database. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    await restoreBackup(context(), (await readBody<{ name: string }>(request, backupSchema)).name)
    reopenRoots(context())
    return shownSettings()
  })
