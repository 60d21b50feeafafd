import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { type SettingsView, settingsView } from '@/services/settings'
import { lockOf } from './sessions'

/** Settings, and how this web process is opened. */
export interface ShownSettings extends SettingsView {
  /** Pages are open only to whoever has given the passphrase. */
  readonly asksPassphrase: boolean
}

/** Settings as a page shows them. Where the folders give no answer, none counts as there. */
export async function shownSettings(): Promise<ShownSettings> {
  const there = await helpers()
    .ask('rootsThere', {})
    .catch(() => [])
  return { ...(await settingsView(context(), there)), asksPassphrase: lockOf(process.env) !== undefined }
}
