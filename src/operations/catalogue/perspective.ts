import { signedNumber } from '@/base/format'
import type { Size } from '@/base/geometry'
import { present } from '@/base/present'
import { mapPair } from '@/base/tuples'
import { invert, type Matrix3, matrix3, multiply } from '@/colour/matrix'
import { defineOperation } from '../declare/operation'
import { number, type SettingsOf } from '../declare/settings'

/** At ±100 % a side shrinks to half: each of its corners moves in by a quarter. */
const strongest = 0.25

const lean = (label: string, help: string) => number({ label, unit: '%', min: -100, max: 100, step: 0.5, default: 0, help })
const corner = (label: string, direction: string) =>
  number({
    label,
    unit: '%',
    min: -25,
    max: 25,
    step: 0.1,
    default: 0,
    typed: true,
    help: `Moves this corner’s place in the picture ${direction}.`,
  })

const settings = {
  verticalPercent: lean('Vertical', 'Above 0 pulls lines upright that lean together towards the top, below 0 towards the bottom.'),
  horizontalPercent: lean('Horizontal', 'Above 0 levels lines that run together towards the left, below 0 towards the right.'),
  topLeftXPercent: corner('Top left, across', 'to the right'),
  topLeftYPercent: corner('Top left, down', 'down'),
  topRightXPercent: corner('Top right, across', 'to the right'),
  topRightYPercent: corner('Top right, down', 'down'),
  bottomRightXPercent: corner('Bottom right, across', 'to the right'),
  bottomRightYPercent: corner('Bottom right, down', 'down'),
  bottomLeftXPercent: corner('Bottom left, across', 'to the right'),
  bottomLeftYPercent: corner('Bottom left, down', 'down'),
}

type Point = readonly [x: number, y: number]

/** Where the corners of the new picture lie in the old one, as shares of its sides: top left, top right, bottom right, bottom left. */
function corners(s: SettingsOf<typeof settings>): readonly [Point, Point, Point, Point] {
  const [up, down] = mapPair([s.verticalPercent, -s.verticalPercent], (value) => (Math.max(0, value) / 100) * strongest)
  const [left, right] = mapPair([s.horizontalPercent, -s.horizontalPercent], (value) => (Math.max(0, value) / 100) * strongest)
  return [
    [up + s.topLeftXPercent / 100, left + s.topLeftYPercent / 100],
    [1 - up + s.topRightXPercent / 100, right + s.topRightYPercent / 100],
    [1 - down + s.bottomRightXPercent / 100, 1 - right + s.bottomRightYPercent / 100],
    [down + s.bottomLeftXPercent / 100, 1 - left + s.bottomLeftYPercent / 100],
  ]
}

/** The map that takes the unit square to four points in turn (Heckbert 1989, section 2.2.3). */
export function squareToQuad([[x0, y0], [x1, y1], [x2, y2], [x3, y3]]: readonly [Point, Point, Point, Point]): Matrix3 {
  const [dx1, dx2, sx] = [x1 - x2, x3 - x2, x0 - x1 + x2 - x3]
  const [dy1, dy2, sy] = [y1 - y2, y3 - y2, y0 - y1 + y2 - y3]
  const determinant = dx1 * dy2 - dx2 * dy1
  const g = (sx * dy2 - dx2 * sy) / determinant
  const h = (dx1 * sy - sx * dy1) / determinant
  return [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1]
}

/** The least turn at a corner, in squared sides of the picture, below which no picture is left between the corners. */
const minTurn = 0.02

/** Whether four points in turn go round clockwise without a dent: only then a map exists that shows all of the picture once. */
const isConvex = (quad: readonly Point[]): boolean =>
  quad.every(([x1, y1], i) => {
    const [x0, y0] = present(quad[(i + 3) % 4])
    const [x2, y2] = present(quad[(i + 1) % 4])
    return (x1 - x0) * (y2 - y1) - (y1 - y0) * (x2 - x1) > minTurn
  })

const scaled = ({ width, height }: Size): Matrix3 => [width, 0, 0, 0, height, 0, 0, 0, 1]

export const perspective = defineOperation({
  id: 'perspective',
  name: 'Perspective',
  group: 'geometry',
  purpose: 'Pull leaning lines upright, or lay four corners where they belong.',
  settings,
  tools: [
    {
      tool: 'corners',
      label: 'Move the corners',
      help: 'Lay the four corners on what should become a rectangle, then press again to see it.',
    },
  ],
  neutral: {
    verticalPercent: 0,
    horizontalPercent: 0,
    topLeftXPercent: 0,
    topLeftYPercent: 0,
    topRightXPercent: 0,
    topRightYPercent: 0,
    bottomRightXPercent: 0,
    bottomRightYPercent: 0,
    bottomLeftXPercent: 0,
    bottomLeftYPercent: 0,
  },
  method: 'Homography from four corners (Heckbert 1989), one resampling in linear light with Catmull-Rom’s cubic; the size stays.',
  resolve: (s, { size }) => {
    const quad = corners(s)
    const moves = Object.values(s).some((value) => value !== 0)
    const works = moves && isConvex(quad)
    const matrix = works ? multiply(multiply(scaled(size), squareToQuad(quad)), invert(scaled(size))) : []
    return { matrix, size: [size.width, size.height], crossed: moves && !works }
  },
  render: ({ matrix, size }) => {
    const [width = 1, height = 1] = size
    return matrix.length === 0 ? { kind: 'none' } : { kind: 'warp', size: { width, height }, toSource: matrix3(matrix) }
  },
  describe: (s) => {
    const moved = Object.entries(s).some(([key, value]) => /^(top|bottom)/.test(key) && value !== 0)
    const parts = [
      s.verticalPercent !== 0 ? `vertical ${signedNumber(s.verticalPercent, 1)} %` : '',
      s.horizontalPercent !== 0 ? `horizontal ${signedNumber(s.horizontalPercent, 1)} %` : '',
      moved ? 'corners moved' : '',
    ].filter(Boolean)
    return parts.length > 0 ? parts.join(', ') : 'no change'
  },
  describeConstants: ({ crossed }) => (crossed ? 'the corners cross: left as it is' : ''),
})
