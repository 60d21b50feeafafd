import * as yup from 'yup'
import { shortNumber } from '@/base/format'
import type { Kind, Labelled } from './kind'

export interface NumberSetting extends Labelled {
  readonly kind: 'number'
  /** Shown behind the number and part of the setting's key: `exposureEv`, `radiusPx`. Empty for a bare number. */
  readonly unit: string
  readonly min: number
  readonly max: number
  readonly step: number
  readonly default: number
  /** Even steps on the slider are equal ratios, for settings that span decades. */
  readonly logarithmic?: boolean
  /** Typed rather than slid: exact sizes and ratios. */
  readonly typed?: boolean
}

export const number = (declaration: Omit<NumberSetting, 'kind'>): NumberSetting => ({ kind: 'number', ...declaration })

/** A finite number between two others. */
export const finiteSchema = (min: number, max: number) =>
  yup
    .number()
    .strict(true)
    .required('is missing')
    .typeError('must be a number')
    .test('finite', 'must be a finite number', (value) => Number.isFinite(value))
    .min(min, `must be at least ${min}`)
    .max(max, `must be at most ${max}`)

/** A pair of finite numbers between two others. */
export const pairSchema = (min: number, max: number) =>
  yup
    .array(finiteSchema(min, max))
    .strict(true)
    .required('is missing')
    .typeError('must be a pair of numbers')
    .length(2, 'must be a pair of numbers')

export const numberKind: Kind<NumberSetting, number> = {
  schema: ({ min, max }) => finiteSchema(min, max),
  json: ({ min, max }) => ({ type: 'number', minimum: min, maximum: max }),
  reading: (setting) => {
    const unit = setting.unit ? ` ${setting.unit}` : ''
    return `${setting.min} … ${setting.max}${unit} (${setting.default}${unit})`
  },
  valueInWords: ({ unit }, value) => `${shortNumber(value)}${unit && ` ${unit}`}`,
  asked: {
    expects: ({ min, max }) => `a number from ${min} to ${max}`,
    read: (typed) => (typed.trim() === '' || Number.isNaN(Number(typed)) ? typed : Number(typed)),
  },
  examples: ({ min, max, default: start }) => [min, start, max],
}
