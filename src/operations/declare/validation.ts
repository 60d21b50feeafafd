import * as yup from 'yup'
import { PatternError } from '@/base/tokens'
import { keptFilePattern } from '@/pixels/kept-file'
import { checkCaption } from './caption'
import type { Operation } from './operation'
import { type CurvePoints, colourPattern, pointLimits, type Setting } from './settings'

const schemas = new WeakMap<Operation, yup.AnySchema>()

/** Strict schema of one operation's settings: every setting given, none beside them, all inside their ranges. */
export function settingsSchema(operation: Operation): yup.AnySchema {
  const known = schemas.get(operation)
  if (known) return known
  const fields = Object.fromEntries(Object.entries(operation.settings).map(([key, setting]) => [key, settingSchema(setting)]))
  const schema = yup.object(fields).noUnknown('has settings that this operation does not know: ${unknown}').strict(true)
  schemas.set(operation, schema)
  return schema
}

function settingSchema(setting: Setting): yup.AnySchema {
  switch (setting.kind) {
    case 'number':
      return yup
        .number()
        .required('is missing')
        .typeError('must be a number')
        .test('finite', 'must be a finite number', (value) => Number.isFinite(value))
        .min(setting.min, `must be at least ${setting.min}`)
        .max(setting.max, `must be at most ${setting.max}`)
    case 'toggle':
      return yup.boolean().required('is missing').typeError('must be true or false')
    case 'points':
      return pointsSchema
    case 'text':
      return yup
        .string()
        .defined('is missing')
        .typeError('must be text')
        .max(setting.most, `must have at most ${setting.most} characters`)
        .test(
          'fields',
          ({ value }) => fieldProblem(String(value)) ?? '',
          (value) => fieldProblem(value) === undefined,
        )
    case 'file':
      return yup.string().defined('is missing').typeError('must be text').matches(keptFilePattern, 'must name a kept file')
    case 'measured':
      return measuredSchema(setting)
    case 'macro':
      return playedMacroSchema
    case 'colour':
      return yup.string().required('is missing').typeError('must be text').matches(colourPattern, 'must be a colour like #a4542a')
    case 'choice': {
      const values = setting.options.map((option) => option.value)
      return yup
        .string()
        .required('is missing')
        .typeError('must be text')
        .oneOf(values, `must be one of ${values.join(', ')}`)
    }
  }
}

/** Why a line's fields can't be read. */
function fieldProblem(value: string): string | undefined {
  try {
    checkCaption(value)
    return undefined
  } catch (error) {
    return error instanceof PatternError ? `can’t be read: ${error.message}` : undefined
  }
}

const measuredSchema = ({ count, min, max }: Extract<Setting, { kind: 'measured' }>): yup.AnySchema =>
  yup
    .array(
      yup
        .number()
        .strict(true)
        .required('is missing')
        .typeError('must be a number')
        .test('finite', 'must be a finite number', (value) => Number.isFinite(value))
        .min(min, `must be at least ${min}`)
        .max(max, `must be at most ${max}`),
    )
    .strict(true)
    .required('is missing')
    .typeError('must be a list of numbers')
    .test('count', `must have ${count} numbers, or none`, (value) => value.length === 0 || value.length === count)

/** Its steps are checked by the macro format itself. */
const playedMacroSchema = yup
  .object({
    macroId: yup.string().strict(true).defined('is missing').max(64, 'must have at most 64 characters'),
    name: yup.string().strict(true).defined('is missing').max(120, 'must have at most 120 characters'),
    revision: yup.number().strict(true).required('is missing').integer('must be a whole number').min(0, 'must be at least 0'),
    steps: yup.array().strict(true).required('is missing').typeError('must be a list'),
  })
  .noUnknown('holds something unknown: ${unknown}')
  .strict(true)
  .required('is missing')

const coordinate = yup
  .number()
  .strict(true)
  .required('is missing')
  .typeError('must be a number')
  .test('finite', 'must be a finite number', (value) => Number.isFinite(value))
  .min(pointLimits.min, `must be at least ${pointLimits.min}`)
  .max(pointLimits.max, `must be at most ${pointLimits.max}`)

const ascends = (points: CurvePoints): boolean =>
  points.every(([input], i) => i === 0 || input - (points[i - 1]?.[0] ?? 0) >= pointLimits.leastGap)

const pointsSchema = yup
  .array(
    yup.array(coordinate).strict(true).required('is missing').typeError('must be a pair of numbers').length(2, 'must be a pair of numbers'),
  )
  .strict(true)
  .required('is missing')
  .typeError('must be a list of points')
  .min(pointLimits.fewest, `must have at least ${pointLimits.fewest} points`)
  .max(pointLimits.most, `must have at most ${pointLimits.most} points`)
  .test('ascending', 'must ascend from point to point by at least 1', (value) => ascends(value as unknown as CurvePoints))
