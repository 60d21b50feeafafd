import * as yup from 'yup'
import type { Kind, Labelled } from './kind'
import { finiteSchema } from './number'

/** Numbers measured on a picture and kept in the macro; none until they are taken. */
export interface MeasuredSetting extends Labelled {
  readonly kind: 'measured'
  /** How many numbers there are, once taken. */
  readonly count: number
  readonly min: number
  readonly max: number
  /** What the button says that takes them; none where only an earlier version of the operation leaves them. */
  readonly action?: string
  readonly default: readonly number[]
}

export const measured = (declaration: Omit<MeasuredSetting, 'kind'>): MeasuredSetting => ({ kind: 'measured', ...declaration })

export const measuredKind: Kind<MeasuredSetting, readonly number[]> = {
  schema: ({ count, min, max }) =>
    yup
      .array(finiteSchema(min, max))
      .strict(true)
      .required('is missing')
      .typeError('must be a list of numbers')
      .test('count', `must have ${count} numbers, or none`, (value) => value.length === 0 || value.length === count),
  json: ({ count, min, max }) => ({ type: 'array', items: { type: 'number', minimum: min, maximum: max }, maxItems: count }),
  reading: ({ count, action }) =>
    action ? `${count} numbers measured on a picture (none)` : `${count} numbers that an earlier version left (none)`,
  examples: ({ count, min, max }) => [[], new Array<number>(count).fill(min), new Array<number>(count).fill(max)],
}
