import { plainNumber } from '@/base/format'
import { lruCached } from '@/base/lru-cache'
import { keysOf } from '@/base/schema'
import { type CurvePoint, monotoneCurve } from '@/colour/monotone-curve'
import { defineOperation, type Effect, type PointPass } from '../declare/operation'
import { type CurvePoints, points } from '../declare/settings'
import { conversion } from '../support/domains'
import { curveTable } from '../support/tables'

const straight: CurvePoints = [
  [0, 0],
  [255, 255],
]
const isStraight = (curve: readonly number[]): boolean => curve.every((value, i) => i % 2 === 0 || value === curve[i - 1]) && reaches(curve)
const reaches = (curve: readonly number[]): boolean => curve[0] === 0 && curve.at(-2) === 255

const declare = (group: string, lead: string) =>
  points({
    label: `${group} points`,
    default: straight,
    group,
    help: `${lead} Codes 0–255, input to output; a click on the curve adds a point.`,
  })

const settings = {
  all: declare('All', 'Bends all channels alike.'),
  red: declare('Red', 'Bends the red channel alone.'),
  green: declare('Green', 'Bends the green channel alone.'),
  blue: declare('Blue', 'Bends the blue channel alone.'),
  lightness: declare('Lightness', 'Bends lightness and leaves colour alone.'),
}
type Channel = keyof typeof settings
const channels = keysOf(settings)

/** Tables of curves by their points: a run bends one picture after the other alike, and channels that are bent alike share theirs. */
const tables = new Map<string, readonly number[]>()
const maxTables = 16
const tableOf = (flat: readonly number[]): readonly number[] => lruCached(tables, flat.join(' '), maxTables, () => newTable(flat))

/** Stored flat: x, y, x, y, … */
function newTable(flat: readonly number[]): number[] {
  const places = Array.from({ length: flat.length / 2 }, (_, i): CurvePoint => [(flat[2 * i] ?? 0) / 255, (flat[2 * i + 1] ?? 0) / 255])
  const curve = monotoneCurve(places)
  // A curve that ends at the corner goes on beyond it in its own direction; one that ends before it clips, as asked.
  const step = 1 / 255
  const slopeBelow = flat[0] === 0 ? (curve(step) - curve(0)) / step : 0
  const slopeAbove = flat.at(-2) === 255 ? (curve(1) - curve(1 - step)) / step : 0
  return curveTable(curve, { slopeBelow, slopeAbove })
}

export const curve = defineOperation({
  id: 'curve',
  name: 'Curve',
  group: 'tone',
  purpose: 'Bend tones freely, for all channels, one of them, or lightness alone.',
  settings,
  neutral: {},
  method:
    'Monotone cubic through the points (Steffen 1990) on sRGB-encoded values, or on OKLab lightness. It never overshoots a point, and moving one changes only the two spans beside it.',
  resolve: (s) => Object.fromEntries(channels.map((channel) => [channel, s[channel].flat()])) as Record<Channel, number[]>,
  render: ({ all, red, green, blue, lightness }): Effect => {
    const passes: PointPass[] = []
    if (!isStraight(all)) passes.push(curvePass([all, all, all]))
    if (![red, green, blue].every(isStraight)) passes.push(curvePass([red, green, blue]))
    if (isStraight(lightness)) return passes.length === 0 ? { kind: 'none' } : { kind: 'point', domain: 'encoded', passes }
    const bend: PointPass = { kernel: 'curveFirst', parameters: tableOf(lightness) }
    if (passes.length === 0) return { kind: 'point', domain: 'oklab', passes: [bend] }
    return {
      kind: 'point',
      domain: 'encoded',
      passes: [...passes, ...conversion('encoded', 'oklab'), bend, ...conversion('oklab', 'encoded')],
    }
  },
  describe: (s) =>
    channels
      .filter((channel) => !isStraight(s[channel].flat()))
      .map((channel) => `${channel} ${s[channel].map(([input, output]) => `${plainNumber(input)}→${plainNumber(output)}`).join(' ')}`)
      .join(', ') || 'straight',
})

/** The same object for the same curves: what is worked out from it is known again by it. */
const curvePasses = new Map<string, PointPass>()
const curvePass = (channelPoints: readonly (readonly number[])[]): PointPass =>
  lruCached(curvePasses, channelPoints.map((flat) => flat.join(' ')).join(', '), maxTables, () => ({
    kernel: 'curve',
    parameters: channelPoints.flatMap(tableOf),
  }))
