import type { Setting, SettingValue } from './kinds'
import type { ChoiceSetting } from './kinds/choice'
import type { MacroSetting, PlayedMacro } from './kinds/played-macro'

/* How an operation's settings are declared. Controls, validation, JSON Schema and docs all come from that. */

export type { Setting, SettingValue } from './kinds'
export { type ChoiceSetting, choice } from './kinds/choice'
export { type ColourSetting, colour, colourPattern } from './kinds/colour'
export { type FileSetting, file } from './kinds/file'
export type { ShownWhen } from './kinds/kind'
export { type MeasuredSetting, measured } from './kinds/measured'
export { type NumberSetting, number } from './kinds/number'
export { type InnerStep, type MacroSetting, type PlayedMacro, playedMacro } from './kinds/played-macro'
export { type CurvePoints, isPoints, type PointsSetting, pointLimits, points } from './kinds/points'
export { type TextSetting, text } from './kinds/text'
export { type ToggleSetting, toggle } from './kinds/toggle'

export type SettingsDeclaration = Readonly<Record<string, Setting>>
/** The settings of one step, as stored. */
export type Settings = Readonly<Record<string, SettingValue>>

/** What a setting's value is: one of a choice's options, a macro, or whatever its default is one of. */
type ValueOf<S extends Setting> = S extends ChoiceSetting<infer T> ? T : S extends MacroSetting ? PlayedMacro : S['default']

/** The values that a declaration allows. */
export type SettingsOf<D extends SettingsDeclaration> = { readonly [K in keyof D]: ValueOf<D[K]> }

/** Settings under other keys, where an earlier version wrote old ones. */
export const renamed = (old: Settings, names: Readonly<Record<string, string>>): Settings =>
  Object.fromEntries(Object.entries(old).map(([key, value]) => [names[key] ?? key, value]))

/** Stored settings as an operation's own type knows them: they have passed its validation. */
export const readAs =
  <D extends SettingsDeclaration>(_: D) =>
  (settings: Settings): SettingsOf<D> =>
    settings as SettingsOf<D>

export function defaultSettings(declaration: SettingsDeclaration): Settings {
  return Object.fromEntries(Object.entries(declaration).map(([key, setting]) => [key, setting.default]))
}

/** Whether a setting has a say, given the others. One that depends on a setting without a say has none either. */
export function isShown(setting: Setting, settings: Settings, declaration: SettingsDeclaration): boolean {
  if (setting.shownWhen === undefined) return true
  const { setting: key, is } = setting.shownWhen
  const controlling = declaration[key]
  return is.some((value) => value === settings[key]) && (controlling === undefined || isShown(controlling, settings, declaration))
}
