import { context } from './context'
import { helpers } from './helper/pool'
import { type SettingsView, settingsView } from './settings'

/** Settings as a page shows them. Where the folders give no answer, none counts as there. */
export async function shownSettings(): Promise<SettingsView> {
  const there = await helpers()
    .ask('rootsThere', {})
    .catch(() => [])
  return settingsView(context(), there)
}
