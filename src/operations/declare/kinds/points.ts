import * as yup from 'yup'
import type { Kind, Labelled } from './kind'
import { pairSchema } from './number'

/** Points of a curve, 0–255 both ways, ascending across. */
export type CurvePoints = readonly (readonly [input: number, output: number])[]

export const pointLimits = { minCount: 2, maxCount: 16, min: 0, max: 255, minGap: 1 } as const

export interface PointsSetting extends Labelled {
  readonly kind: 'points'
  readonly default: CurvePoints
}

/** Whether a setting's value is the points of a curve. */
export const isPoints = (value: unknown): value is CurvePoints => Array.isArray(value) && value.every((point) => Array.isArray(point))

export const points = (declaration: Omit<PointsSetting, 'kind'>): PointsSetting => ({ kind: 'points', ...declaration })

/** Whether the points ascend; what is no point is not judged here. It is asked before the points themselves are looked at. */
const ascends = (given: readonly unknown[]): boolean => {
  const inputs = given.map((point) => (Array.isArray(point) ? Number(point[0]) : Number.NaN))
  return inputs.every((input, i) => i === 0 || !(input - (inputs[i - 1] ?? 0) < pointLimits.minGap))
}

const schema = yup
  .array(pairSchema(pointLimits.min, pointLimits.max))
  .strict(true)
  .required('is missing')
  .typeError('must be a list of points')
  .min(pointLimits.minCount, `must have at least ${pointLimits.minCount} points`)
  .max(pointLimits.maxCount, `must have at most ${pointLimits.maxCount} points`)
  .test('ascending', 'must ascend from point to point by at least 1', ascends)

/** `0,0 64,58 255,255`: input and output of each point. */
function readPoints(typed: string): CurvePoints | undefined {
  const pairs = typed
    .trim()
    .split(/\s+/)
    .map((pair): readonly [number, number] => {
      const [input = Number.NaN, output = Number.NaN, ...more] = pair.split(',').map(Number)
      return more.length === 0 ? [input, output] : [Number.NaN, Number.NaN]
    })
  return pairs.flat().every(Number.isFinite) ? pairs : undefined
}

const { minCount, maxCount, min, max } = pointLimits

export const pointsKind: Kind<PointsSetting, CurvePoints> = {
  schema: () => schema,
  json: () => {
    const point = { type: 'array', items: { type: 'number', minimum: min, maximum: max }, minItems: 2, maxItems: 2 }
    return { type: 'array', items: point, minItems: minCount, maxItems: maxCount }
  },
  reading: (setting) => `${minCount} to ${maxCount} points, ${min}–${max} (${setting.default.map(([x, y]) => `${x}→${y}`).join(', ')})`,
  asked: { expects: () => 'the points of a curve like 0,0 64,58 255,255', read: (typed) => readPoints(typed) ?? typed },
  examples: (setting) => [
    setting.default,
    [
      [min, max],
      [max, min],
    ],
    Array.from({ length: maxCount }, (_, i) => [i * 17, Math.min(max, i * 17 + (i % 2) * 40)] as const),
  ],
}
