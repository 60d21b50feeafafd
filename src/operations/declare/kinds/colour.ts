import * as yup from 'yup'
import type { Kind, Labelled } from './kind'

/** An sRGB colour as in CSS: `#rrggbb`, small letters. */
export interface ColourSetting extends Labelled {
  readonly kind: 'colour'
  readonly default: string
}

export const colourPattern = /^#[0-9a-f]{6}$/

export const colour = (declaration: Omit<ColourSetting, 'kind'>): ColourSetting => ({ kind: 'colour', ...declaration })

export const colourKind: Kind<ColourSetting, string> = {
  schema: () => yup.string().required('is missing').typeError('must be text').matches(colourPattern, 'must be a colour like #a4542a'),
  json: () => ({ type: 'string', pattern: colourPattern.source }),
  reading: () => 'a colour like `#a4542a`',
  asked: { expects: () => 'a colour like #a4542a', read: (typed) => typed },
  examples: (setting) => [setting.default, '#000000', '#ffffff', '#a4542a'],
}
