import type { ShownSettings } from '@/contract/answers'
import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { settingsView } from '@/services/settings'
import { lockOf } from './sessions'

/** Settings as a page shows them. Where the folders give no answer, none counts as there. */
export async function shownSettings(): Promise<ShownSettings> {
  const there = await helpers()
    .ask('rootsThere', {})
    .catch(() => [])
  return { ...(await settingsView(context(), there)), asksPassphrase: lockOf(process.env) !== undefined }
}
