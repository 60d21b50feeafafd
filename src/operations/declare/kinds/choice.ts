import * as yup from 'yup'
import type { Kind, Labelled } from './kind'

export interface ChoiceSetting<T extends string = string> extends Labelled {
  readonly kind: 'choice'
  readonly options: readonly { readonly value: T; readonly label: string }[]
  readonly default: T
}

export const choice = <const T extends string>(declaration: Omit<ChoiceSetting<T>, 'kind'>): ChoiceSetting<T> => ({
  kind: 'choice',
  ...declaration,
})

const valuesOf = ({ options }: ChoiceSetting): string[] => options.map(({ value }) => value)

export const choiceKind: Kind<ChoiceSetting, string> = {
  schema: (setting) =>
    yup
      .string()
      .required('is missing')
      .typeError('must be text')
      .oneOf(valuesOf(setting), `must be one of ${valuesOf(setting).join(', ')}`),
  json: (setting) => ({ enum: valuesOf(setting) }),
  reading: ({ options, default: start }) =>
    `${options.map(({ label }) => label).join(', ')} (${options.find(({ value }) => value === start)?.label})`,
  valueInWords: ({ options }, value) => options.find((option) => option.value === value)?.label.toLowerCase() ?? value,
  asked: { expects: (setting) => `one of ${valuesOf(setting).join(', ')}`, read: (typed) => typed },
  examples: valuesOf,
}
