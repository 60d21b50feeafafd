import * as yup from 'yup'
import { AppError } from '@/base/errors'
import { findOperation, type Settings } from '@/operations'
import { settingsSchema } from '@/operations/declare/validation'
import { conditionSchema } from './condition'
import { limitBounds, limitSchema } from './limit'
import { type Macro, macroFormat, macroVersion } from './macro'
import { blends, canBeAsked, completeSteps, innerSteps, type Step, withInnerSteps } from './step'

export const macroLimits = {
  fileBytes: 1 << 20,
  depth: 40,
  /** Macros that play macros that play macros. */
  nesting: 4,
  steps: 500,
  nameLength: 120,
  notesLength: 10_000,
  tags: 40,
  conditions: 20,
  noteLength: 2000,
  openSettings: 20,
  questionLength: 200,
} as const

const isObject = (value: unknown): value is Settings => typeof value === 'object' && value !== null && !Array.isArray(value)
const text = (max: number) => yup.string().strict(true).typeError('must be text').max(max, `must have at most ${max} characters`)

/** Steps without their settings, which their operation's own schema checks. */
const stepSchema = yup
  .object({
    id: text(64).required('is missing'),
    operation: text(64).required('is missing'),
    settings: yup.mixed<Settings>(isObject).required('is missing').typeError('must be an object'),
    enabled: yup.boolean().strict(true).required('is missing').typeError('must be true or false'),
    strengthPercent: yup
      .number()
      .strict(true)
      .required('is missing')
      .typeError('must be a number')
      .min(0, 'must be at least 0')
      .max(100, 'must be at most 100'),
    blend: yup
      .string()
      .strict(true)
      .required('is missing')
      .oneOf(blends, `must be one of ${blends.join(', ')}`),
    when: yup.array(conditionSchema).strict(true).required('is missing').typeError('must be a list').max(macroLimits.conditions),
    note: text(macroLimits.noteLength).optional(),
    open: yup
      .array(
        yup
          .object({ setting: text(64).required('is missing'), question: text(macroLimits.questionLength).required('is missing') })
          .noUnknown('holds something unknown: ${unknown}')
          .strict(true),
      )
      .strict(true)
      .optional()
      .typeError('must be a list')
      .max(macroLimits.openSettings),
    limit: yup.array(limitSchema).strict(true).optional().typeError('must be a list').max(limitBounds.limits),
  })
  .noUnknown('holds something unknown: ${unknown}')
  .strict(true)

export const macroSchema = yup
  .object({
    name: text(macroLimits.nameLength).required('is missing').trim('must not begin or end with a space'),
    notes: text(macroLimits.notesLength).defined('is missing'),
    tags: yup.array(text(40).required('is missing')).strict(true).required('is missing').typeError('must be a list').max(macroLimits.tags),
    steps: yup.array(stepSchema).strict(true).required('is missing').typeError('must be a list').max(macroLimits.steps),
  })
  .strict(true)

const fileSchema = macroSchema
  .shape({
    format: yup.string().required('is missing').oneOf([macroFormat], `must be "${macroFormat}"`),
    version: yup
      .number()
      .required('is missing')
      .typeError('must be a number')
      .integer('must be a whole number')
      .min(1, 'must be at least 1'),
  })
  .noUnknown('holds something unknown: ${unknown}')

/** The macro as a `*.macro.json` file. */
export function writeMacroFile({ name, notes, tags, steps }: Macro): string {
  return `${JSON.stringify({ format: macroFormat, version: macroVersion, name, notes, tags, steps }, null, 2)}\n`
}

/**
 * Reads a macro file strictly. Operations and settings of a newer version are kept as they are; `unknownOperations`
 * tells which steps can't run here.
 * @throws AppError `macroInvalid`, naming the place: `steps[3].settings.radiusPx`
 */
export function readMacroFile(source: string): Macro {
  if (source.length > macroLimits.fileBytes) throw invalid('the file', 'is larger than 1 MB')
  const json = parseJson(source)
  if (depthOf(json, macroLimits.depth) > macroLimits.depth) throw invalid('the file', `is nested deeper than ${macroLimits.depth} levels`)
  validate<GivenMacro>(fileSchema, json, '')
  const { name, notes, tags, steps } = json
  return checkMacro({ name, notes, tags, steps: completeSteps(steps) })
}

/** A macro that came from elsewhere: what its steps are is still to be seen. */
export type GivenMacro = Omit<Macro, 'steps'> & { readonly steps: readonly unknown[] }

/** Checks a macro that came from elsewhere than a file. @throws AppError `macroInvalid` */
export function checkMacro({ name, notes, tags, steps }: GivenMacro): Macro {
  validate(macroSchema, { name, notes, tags, steps }, '')
  checkSteps(steps)
  return { name, notes, tags, steps }
}

/**
 * Checks steps of a macro, and those of the macros they play.
 * @throws AppError `macroInvalid`
 */
export function checkSteps(
  steps: readonly unknown[],
  inside = '',
  nesting: number = macroLimits.nesting,
): asserts steps is readonly Step[] {
  const seen = new Set<string>()
  steps.forEach((given, index) => {
    const where = `${inside}steps[${index}]`
    checkStep(given, where)
    const step = given
    if (seen.has(step.id)) throw invalid(`${where}.id`, 'stands at another step too')
    seen.add(step.id)
    const inner = innerSteps(step)
    if (inner.length > macroLimits.steps) throw invalid(`${where}.settings.macro.steps`, `has more than ${macroLimits.steps} steps`)
    if (inner.length > 0 && nesting === 0) throw invalid(where, `plays a macro more than ${macroLimits.nesting} deep`)
    checkSteps(inner, `${where}.settings.macro.`, nesting - 1)
  })
}

/** One step by itself, without those it plays. */
function checkStep(step: unknown, where: string): asserts step is Step {
  validate<Step>(stepSchema, step, where)
  const operation = findOperation(step.operation)
  if (!operation) return
  validate(settingsSchema(operation), step.settings, `${where}.settings`)
  for (const [index, { setting }] of (step.open ?? []).entries()) {
    if (!canBeAsked(operation.settings[setting]))
      throw invalid(`${where}.open[${index}].setting`, `names "${setting}", which can't be left open`)
  }
}

/** Indices of steps whose operation, or one they play, this version does not have. */
export const unknownOperations = (steps: readonly Step[]): number[] =>
  steps.flatMap((step, index) => (withInnerSteps([step]).every(({ operation }) => findOperation(operation)) ? [] : [index]))

const invalid = (where: string, reason: string): AppError => new AppError('macroInvalid', { where, reason })

function parseJson(source: string): unknown {
  try {
    return JSON.parse(source)
  } catch {
    throw invalid('the file', 'is not JSON')
  }
}

/** How deep a value nests, counted no further than `most` + 1. */
function depthOf(value: unknown, max: number): number {
  if (typeof value !== 'object' || value === null) return 0
  if (max < 0) return 1
  return 1 + Math.max(0, ...Object.values(value).map((inner) => depthOf(inner, max - 1)))
}

/** A value that the schema lets through is what it says, `T`; nothing about it is changed. @throws AppError `macroInvalid` */
function validate<T>(schema: yup.AnySchema, value: unknown, where: string): asserts value is T {
  try {
    schema.validateSync(value, { strict: true })
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error
    const path = [where, error.path].filter(Boolean).join('.')
    throw invalid(path || 'the file', error.path ? error.message.replace(`${error.path} `, '') : error.message.replace(/^this /, ''))
  }
}
