import { type ChoiceSetting, choiceKind } from './kinds/choice'
import { type ColourSetting, colourKind } from './kinds/colour'
import { type FileSetting, fileKind } from './kinds/file'
import type { Kind } from './kinds/kind'
import { type MeasuredSetting, measuredKind } from './kinds/measured'
import { type NumberSetting, numberKind } from './kinds/number'
import { type MacroSetting, macroKind, type PlayedMacro } from './kinds/played-macro'
import { type CurvePoints, type PointsSetting, pointsKind } from './kinds/points'
import { type TextSetting, textKind } from './kinds/text'
import { type ToggleSetting, toggleKind } from './kinds/toggle'

export type Setting =
  | NumberSetting
  | ToggleSetting
  | ChoiceSetting
  | PointsSetting
  | ColourSetting
  | MeasuredSetting
  | FileSetting
  | TextSetting
  | MacroSetting

export type SettingValue = number | boolean | string | CurvePoints | readonly number[] | PlayedMacro

/** Every kind of setting: what is to be known of it, in one place each. */
const kinds = {
  number: numberKind,
  toggle: toggleKind,
  choice: choiceKind,
  points: pointsKind,
  colour: colourKind,
  measured: measuredKind,
  file: fileKind,
  text: textKind,
  macro: macroKind,
} satisfies { readonly [K in Setting['kind']]: Kind<Extract<Setting, { kind: K }>, SettingValue> }

/** What is to be known of a setting's kind. Ask it of that very setting, or of one of the same kind. */
export const kindOf = ({ kind }: Setting): Kind<Setting, SettingValue> => kinds[kind]
