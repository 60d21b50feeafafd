import * as yup from 'yup'
import type { Kind, Labelled } from './kind'

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
export interface MacroSetting extends Labelled {
  readonly kind: 'macro'
  readonly default: PlayedMacro
}

export const playedMacro = (declaration: Omit<MacroSetting, 'kind' | 'default'>): MacroSetting => ({
  kind: 'macro',
  default: { macroId: '', name: '', revision: 0, steps: [] },
  ...declaration,
})

const limits = { macroId: 64, name: 120 } as const

/** Its steps are checked by the macro format itself. */
const schema = yup
  .object({
    macroId: yup.string().strict(true).defined('is missing').max(limits.macroId, `must have at most ${limits.macroId} characters`),
    name: yup.string().strict(true).defined('is missing').max(limits.name, `must have at most ${limits.name} characters`),
    revision: yup.number().strict(true).required('is missing').integer('must be a whole number').min(0, 'must be at least 0'),
    steps: yup.array().strict(true).required('is missing').typeError('must be a list'),
  })
  .noUnknown('holds something unknown: ${unknown}')
  .strict(true)
  .required('is missing')

export const macroKind: Kind<MacroSetting, PlayedMacro> = {
  schema: () => schema,
  json: () => ({
    type: 'object',
    properties: {
      macroId: { type: 'string', maxLength: limits.macroId },
      name: { type: 'string', maxLength: limits.name },
      revision: { type: 'integer', minimum: 0 },
      steps: { $ref: '#/$defs/steps' },
    },
    required: ['macroId', 'name', 'revision', 'steps'],
    additionalProperties: false,
  }),
  reading: () => 'a macro’s revision, kept whole (none)',
  examples: (setting) => [setting.default],
}
