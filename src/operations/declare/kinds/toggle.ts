import * as yup from 'yup'
import type { Kind, Labelled } from './kind'

export interface ToggleSetting extends Labelled {
  readonly kind: 'toggle'
  readonly default: boolean
}

export const toggle = (declaration: Omit<ToggleSetting, 'kind'>): ToggleSetting => ({ kind: 'toggle', ...declaration })

export const toggleKind: Kind<ToggleSetting, boolean> = {
  schema: () => yup.boolean().required('is missing').typeError('must be true or false'),
  json: () => ({ type: 'boolean' }),
  reading: (setting) => `on or off (${setting.default ? 'on' : 'off'})`,
  valueInWords: (_, value) => (value ? 'on' : 'off'),
  asked: { expects: () => 'true or false', read: (typed) => (typed === 'true' ? true : typed === 'false' ? false : typed) },
  examples: () => [true, false],
}
