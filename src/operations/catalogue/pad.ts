import { plainNumber, shortNumber } from '@/base/format'
import { longEdge, type Size } from '@/base/geometry'
import { floatAt, numberAt } from '@/base/numbers'
import { srgbToWorking } from '@/colour/hex'
import type { LinearPicture } from '@/pixels/linear-picture'
import { defineOperation, type Grid } from '../declare/operation'
import { choice, colour, number, type SettingsOf } from '../declare/settings'
import { ratioSettings, turnsSetting } from '../support/frame-settings'
import { boxMean } from '../support/grid'

const by = (...is: string[]) => ({ setting: 'by', is })

const settings = {
  by: choice({
    label: 'By',
    options: [
      { value: 'percent', label: 'Border, in per cent' },
      { value: 'pixels', label: 'Border, in pixels' },
      { value: 'ratio', label: 'To a ratio' },
    ],
    default: 'percent',
    help: 'An even border, or as much ground as a ratio of sides needs.',
  }),
  borderPercent: number({
    label: 'Border',
    unit: '%',
    min: 0,
    max: 50,
    step: 0.1,
    default: 4,
    help: 'Width of the border, of the long edge.',
    shownWhen: by('percent'),
  }),
  borderPx: number({
    typed: true,
    label: 'Border',
    unit: 'px',
    min: 0,
    max: 5000,
    step: 1,
    default: 60,
    help: 'Width of the border.',
    shownWhen: by('pixels'),
  }),
  ...ratioSettings([1, 1], by('ratio')),
  turnsWithPicture: turnsSetting(by('ratio')),
  ground: choice({
    label: 'Ground',
    options: [
      { value: 'colour', label: 'A colour' },
      { value: 'edge', label: 'Colour of the edge' },
      { value: 'blur', label: 'The picture, blurred' },
    ],
    default: 'colour',
    help: 'What lies around the picture.',
  }),
  colour: colour({ label: 'Colour', default: '#ffffff', help: 'Colour of the ground.', shownWhen: { setting: 'ground', is: ['colour'] } }),
}
type PadSettings = SettingsOf<typeof settings>

function paddedSize(s: PadSettings, size: Size): Size {
  if (s.by === 'ratio') {
    const swaps = s.turnsWithPicture && size.height > size.width
    const [long, short] = [Math.max(s.ratioWidth, s.ratioHeight), Math.min(s.ratioWidth, s.ratioHeight)]
    const ratio = s.turnsWithPicture ? (swaps ? short / long : long / short) : s.ratioWidth / s.ratioHeight
    return size.width / size.height < ratio
      ? { width: Math.max(size.width, Math.round(size.height * ratio)), height: size.height }
      : { width: size.width, height: Math.max(size.height, Math.round(size.width / ratio)) }
  }
  const border = Math.round(s.by === 'pixels' ? s.borderPx : (longEdge(size) * s.borderPercent) / 100)
  return { width: size.width + 2 * border, height: size.height + 2 * border }
}

/** The mean of the outermost pixels, in linear working RGB. */
function edgeColour({ size: { width, height }, planes }: LinearPicture): number[] {
  const sums = [0, 0, 0]
  let count = 0
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += y === 0 || y === height - 1 ? 1 : Math.max(1, width - 1)) {
      for (const c of [0, 1, 2]) sums[c] = numberAt(sums, c) + floatAt(planes, c * width * height + y * width + x)
      count++
    }
  return sums.map((sum) => sum / count)
}

/** Blur of the ground, as a share of the small copy's long edge. */
const blurShare = 0.06

/** So many boxes one after the other. */
const boxes = 3

/** The picture stretched over the whole new frame, blurred: three boxes are as good as a Gaussian (Wells 1986). */
function blurred({ size, planes, kernels }: LinearPicture): Grid {
  const length = size.width * size.height
  const radius = Math.max(1, Math.round(longEdge(size) * blurShare))
  return { size, planes: [0, 1, 2].map((c) => boxMean(kernels, planes.subarray(c * length, (c + 1) * length), size, radius, boxes)) }
}

export const pad = defineOperation({
  id: 'pad',
  name: 'Pad and border',
  group: 'geometry',
  purpose: 'Lay the picture on a larger ground: an even border, or up to a ratio of sides.',
  settings,
  holdsShape: (s) => s.turnsWithPicture === false,
  neutral: { by: 'pixels', borderPx: 0 },
  method: 'The picture’s pixels are kept as they are; a blurred ground is made on a copy of 512 px, by three box means (Wells 1986).',
  resolve: (s, { size, copy }) => {
    const to = paddedSize(s, size)
    const picture = s.ground === 'edge' ? copy?.() : undefined
    return {
      size: [to.width, to.height],
      at: [Math.floor((to.width - size.width) / 2), Math.floor((to.height - size.height) / 2)],
      colour: picture ? edgeColour(picture) : [...srgbToWorking(s.colour)],
      blurs: s.ground === 'blur',
      same: to.width === size.width && to.height === size.height,
    }
  },
  render: ({ size, at, colour: [r = 0, g = 0, b = 0], blurs, same }, { copy }) => {
    const [width = 1, height = 1] = size
    const [x = 0, y = 0] = at
    if (same) return { kind: 'none' }
    const picture = blurs ? copy?.() : undefined
    const ground = picture ? ({ kind: 'grid', grid: blurred(picture) } as const) : ({ kind: 'plain', colour: [r, g, b] } as const)
    return { kind: 'pad', size: { width, height }, at: { x, y }, ground }
  },
  describe: (s) => {
    const ground = { colour: s.colour, edge: 'edge colour', blur: 'blurred ground' }[s.ground]
    if (s.by === 'ratio') return `to ${shortNumber(s.ratioWidth)} : ${shortNumber(s.ratioHeight)}, ${ground}`
    return `${s.by === 'pixels' ? `${plainNumber(s.borderPx)} px` : `${shortNumber(s.borderPercent, 1)} %`} border, ${ground}`
  },
  describeConstants: ({ size, same }) => (same ? 'already this shape' : `to ${size[0]} × ${size[1]} px`),
})
