/** How a setting is declared. Controls, validation, JSON Schema and docs all come from these. */
export interface NumberSetting {
  readonly kind: 'number'
  readonly label: string
  /** Shown behind the number and part of the setting's key: `exposureEv`, `radiusPx`. Empty for a bare number. */
  readonly unit: string
  readonly min: number
  readonly max: number
  readonly step: number
  readonly default: number
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
  /** Even steps on the slider are equal ratios, for settings that span decades. */
  readonly logarithmic?: boolean
  /** Typed rather than slid: exact sizes and ratios. */
  readonly typed?: boolean
}

export interface ToggleSetting {
  readonly kind: 'toggle'
  readonly label: string
  readonly default: boolean
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

export interface ChoiceSetting<T extends string = string> {
  readonly kind: 'choice'
  readonly label: string
  readonly options: readonly { readonly value: T; readonly label: string }[]
  readonly default: T
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** Places on a curve, 0–255 both ways, ascending across. */
export type CurvePoints = readonly (readonly [input: number, output: number])[]

export const pointLimits = { fewest: 2, most: 16, min: 0, max: 255, leastGap: 1 } as const

export interface PointsSetting {
  readonly kind: 'points'
  readonly label: string
  readonly default: CurvePoints
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** An sRGB colour as in CSS: `#rrggbb`, small letters. */
export interface ColourSetting {
  readonly kind: 'colour'
  readonly label: string
  readonly default: string
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** Numbers measured on a picture and kept in the macro; none until they are taken. */
export interface MeasuredSetting {
  readonly kind: 'measured'
  readonly label: string
  /** How many numbers there are, once taken. */
  readonly count: number
  readonly min: number
  readonly max: number
  /** What the button says. */
  readonly action: string
  readonly default: readonly number[]
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** A line of text with fields in braces. */
export interface TextSetting {
  readonly kind: 'text'
  readonly label: string
  readonly default: string
  /** Characters. */
  readonly most: number
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** A file kept with the macro, by its content: a stamp or a look. */
export interface FileSetting {
  readonly kind: 'file'
  readonly label: string
  /** What the file must be. */
  readonly holds: 'image' | 'look'
  readonly default: string
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** A step as stored inside another: its shape is the macro format's business, not the catalogue's. */
export type InnerStep = Readonly<Record<string, unknown>>

/**
 * A macro's revision as it was when it was chosen: steps and all, so that no later change or loss on the shelf can
 * alter or break what plays it, and so that no macro can come to hold itself.
 */
export interface PlayedMacro {
  /** Where it came from on this machine's shelf, to tell of newer revisions. */
  readonly macroId: string
  readonly name: string
  /** 0: none chosen yet. */
  readonly revision: number
  readonly steps: readonly InnerStep[]
}

/** Another macro, played as one step. */
export interface MacroSetting {
  readonly kind: 'macro'
  readonly label: string
  readonly default: PlayedMacro
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

export const colourPattern = /^#[0-9a-f]{6}$/

/** The setting matters only while another one has one of these values. */
export interface ShownWhen {
  readonly setting: string
  readonly is: readonly SettingValue[]
}

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
export type SettingsDeclaration = Readonly<Record<string, Setting>>
export type SettingValue = number | boolean | string | CurvePoints | readonly number[] | PlayedMacro
/** The settings of one step, as stored. */
export type Settings = Readonly<Record<string, SettingValue>>

/** The values that a declaration allows. */
export type SettingsOf<D extends SettingsDeclaration> = {
  readonly [K in keyof D]: D[K] extends { kind: 'number' }
    ? number
    : D[K] extends { kind: 'toggle' }
      ? boolean
      : D[K] extends ChoiceSetting<infer T>
        ? T
        : D[K] extends PointsSetting
          ? CurvePoints
          : D[K] extends ColourSetting | FileSetting | TextSetting
            ? string
            : D[K] extends MeasuredSetting
              ? readonly number[]
              : D[K] extends MacroSetting
                ? PlayedMacro
                : never
}

export const number = (declaration: Omit<NumberSetting, 'kind'>): NumberSetting => ({ kind: 'number', ...declaration })
export const toggle = (declaration: Omit<ToggleSetting, 'kind'>): ToggleSetting => ({ kind: 'toggle', ...declaration })
export const choice = <const T extends string>(declaration: Omit<ChoiceSetting<T>, 'kind'>): ChoiceSetting<T> => ({
  kind: 'choice',
  ...declaration,
})

export const points = (declaration: Omit<PointsSetting, 'kind'>): PointsSetting => ({ kind: 'points', ...declaration })

export const file = (declaration: Omit<FileSetting, 'kind' | 'default'>): FileSetting => ({ kind: 'file', default: '', ...declaration })

export const text = (declaration: Omit<TextSetting, 'kind'>): TextSetting => ({ kind: 'text', ...declaration })

export const playedMacro = (declaration: Omit<MacroSetting, 'kind' | 'default'>): MacroSetting => ({
  kind: 'macro',
  default: { macroId: '', name: '', revision: 0, steps: [] },
  ...declaration,
})

export const measured = (declaration: Omit<MeasuredSetting, 'kind'>): MeasuredSetting => ({ kind: 'measured', ...declaration })

export const colour = (declaration: Omit<ColourSetting, 'kind'>): ColourSetting => ({ kind: 'colour', ...declaration })

export function defaultSettings(declaration: SettingsDeclaration): Settings {
  return Object.fromEntries(Object.entries(declaration).map(([key, setting]) => [key, setting.default]))
}

/** Whether a setting has a say, given the others. One that depends on a setting without a say has none either. */
export function isShown(setting: Setting, settings: Settings, declaration: SettingsDeclaration): boolean {
  if (setting.shownWhen === undefined) return true
  const { setting: key, is } = setting.shownWhen
  const controlling = declaration[key]
  return is.includes(settings[key] as SettingValue) && (controlling === undefined || isShown(controlling, settings, declaration))
}
