import { shortNumber, signedNumber } from '@/base/format'
import type { Size } from '@/base/geometry'
import { type Matrix3, multiply } from '@/colour/matrix'
import { defineOperation } from '../declare/operation'
import { choice, number } from '../declare/settings'
import { findTilt } from '../measure/horizon'

const radians = (degrees: number): number => (degrees * Math.PI) / 180

const moved = (x: number, y: number): Matrix3 => [1, 0, x, 0, 1, y, 0, 0, 1]

/** The largest frame of the picture's own ratio that fits inside the turned picture. */
function inside({ width, height }: Size, degrees: number): Size {
  const [c, s] = [Math.cos(radians(degrees)), Math.abs(Math.sin(radians(degrees)))]
  const scale = Math.min(width / (width * c + height * s), height / (width * s + height * c))
  return { width: Math.max(1, Math.floor(width * scale)), height: Math.max(1, Math.floor(height * scale)) }
}

export const straighten = defineOperation({
  id: 'straighten',
  name: 'Straighten',
  group: 'geometry',
  purpose: 'Level a tilted picture, by a given angle or by the lines found in it.',
  settings: {
    by: choice({
      label: 'By',
      options: [
        { value: 'angle', label: 'Angle' },
        { value: 'lines', label: 'Lines found' },
      ],
      default: 'lines',
      help: 'Lines found: level and plumb edges are measured in each picture. Unclear pictures stay as they are.',
    }),
    angleDegrees: number({
      label: 'Angle',
      unit: '°',
      min: -45,
      max: 45,
      step: 0.1,
      default: 0,
      help: 'Turns the picture clockwise.',
      shownWhen: { setting: 'by', is: ['angle'] },
    }),
    maxDegrees: number({
      label: 'At most',
      unit: '°',
      min: 0.5,
      max: 10,
      step: 0.1,
      default: 5,
      help: 'Tilts beyond this are taken for intended.',
      shownWhen: { setting: 'by', is: ['lines'] },
    }),
    corners: choice({
      label: 'Corners',
      options: [
        { value: 'trim', label: 'Trim away' },
        { value: 'fill', label: 'Fill from the edge' },
      ],
      default: 'trim',
      help: 'Trimming keeps the ratio of the sides; filling keeps the size.',
    }),
  },
  tools: [
    {
      tool: 'horizon',
      label: 'Draw a line',
      help: 'Draw along something that should be level or upright.',
      drawn: (s, angleDegrees) => ({ ...s, by: 'angle', angleDegrees }),
    },
  ],
  level: {
    angle: (s, standing) => Number((s.by === 'lines' ? standing?.constants.degrees : s.angleDegrees) ?? 0),
    turned: (s, angleDegrees) => ({ ...s, by: 'angle', angleDegrees }),
  },
  neutral: { by: 'angle', angleDegrees: 0 },
  method:
    'One projective resampling in linear light with Catmull-Rom’s cubic. Lines: histogram of gradient directions on a copy of 512 px, weighted by how straight the surroundings are (structure tensor, Bigün & Granlund 1987), its peak to a twentieth of a degree.',
  resolve: (s, { size, copy }) => {
    const picture = s.by === 'lines' ? copy?.() : undefined
    const degrees = s.by === 'angle' ? s.angleDegrees : picture ? findTilt(picture, s.maxDegrees) : 0
    const to = degrees === 0 || s.corners === 'fill' ? size : inside(size, degrees)
    return { degrees, before: [size.width, size.height], size: [to.width, to.height] }
  },
  render: ({ degrees, before, size }) => {
    if (degrees === 0) return { kind: 'none' }
    const [width = 1, height = 1] = size
    const [oldWidth = 1, oldHeight = 1] = before
    const [c, s] = [Math.cos(radians(degrees)), Math.sin(radians(degrees))]
    // A clockwise turn shows at (x, y) what lay counter-clockwise of it (y points down).
    const turn: Matrix3 = [c, s, 0, -s, c, 0, 0, 0, 1]
    const toSource = multiply(multiply(moved(oldWidth / 2, oldHeight / 2), turn), moved(-width / 2, -height / 2))
    return { kind: 'warp', size: { width, height }, toSource }
  },
  changeInWords: (to, from) =>
    to.by === 'angle' && to.corners === (from?.corners ?? to.corners)
      ? `turned by ${signedNumber(Number(to.angleDegrees), 1)}°${from?.by === 'lines' ? ', whatever lines say' : ''}`
      : undefined,
  describe: (s) =>
    `${s.by === 'angle' ? `${signedNumber(s.angleDegrees, 1)}°` : 'by the lines found'}${s.corners === 'fill' ? ', corners filled' : ''}`,
  describeConstants: ({ degrees }) => (degrees === 0 ? 'level already' : `turned ${shortNumber(degrees)}°`),
})
