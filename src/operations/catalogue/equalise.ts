import { plainNumber, shortNumber } from '@/base/format'
import { doubleAt, floatAt } from '@/base/numbers'
import { smoothStep } from '@/base/scale'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { byPosition } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'

/** Steps of lightness that are counted; a tile's curve has one place more. */
const bins = 256

/** How often each lightness comes up in a rectangle of a plane. */
function countBins(plane: Float32Array, width: number, left: number, top: number, right: number, bottom: number): Float64Array {
  const counts = new Float64Array(bins)
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x++) {
      const bin = Math.min(bins - 1, Math.max(0, Math.floor(floatAt(plane, y * width + x) * bins)))
      counts[bin] = doubleAt(counts, bin) + 1
    }
  return counts
}

/** The cumulative curve of counts held below `limit` times their mean, what is cut off spread over all bins alike. */
export function limitedCurve(counts: Float64Array, limit: number): Float64Array {
  const total = counts.reduce((sum, count) => sum + count, 0)
  const max = (limit * total) / bins
  const held = counts.map((count) => Math.min(count, max))
  const share = (total - held.reduce((sum, count) => sum + count, 0)) / bins
  const curve = new Float64Array(bins + 1)
  held.forEach((count, i) => {
    curve[i + 1] = doubleAt(curve, i) + (count + share) / total
  })
  return curve
}

/** Lightness from the twentieth to the last but twentieth of what is counted: a part as even as the first is plain, as the second is drawn. */
const plainSpread = [0.04, 0.14] as const
const tails = 0.05

/** How far the counted lightnesses lie apart, 0–1, but for the tails. */
function spreadOf(counts: Float64Array): number {
  const total = counts.reduce((sum, count) => sum + count, 0)
  const place = (share: number): number => {
    let sum = 0
    return counts.findIndex((count) => {
      sum += count
      return sum >= share * total
    })
  }
  return (place(1 - tails) - place(tails)) / bins
}

/** What contrast may grow by in a part: a plain ground has none that anybody wants to see. */
const limitFor = (counts: Float64Array, limit: number): number => 1 + (limit - 1) * smoothStep(spreadOf(counts), ...plainSpread)

export const equalise = defineOperation({
  id: 'equalise-locally',
  name: 'Equalise locally',
  group: 'tone',
  purpose: 'Open flat areas everywhere: each part of the picture gets its own tone curve.',
  settings: {
    tilesAcross: number({
      label: 'Tiles',
      unit: '',
      min: 1,
      max: 16,
      step: 1,
      default: 6,
      help: 'Parts along the long edge; one is the whole picture.',
    }),
    limit: number({
      label: 'Limit',
      unit: '',
      min: 1,
      max: 10,
      step: 0.1,
      default: 1.8,
      help: 'The most that contrast may grow; 1 changes nothing.',
    }),
    edition: editionSetting('At first, plain grounds were equalised like anything else, and their uneven light came out.'),
  },
  upgrade: (old) => withEdition(old),
  neutral: { limit: 1 },
  method:
    'Contrast-limited adaptive equalisation (Zuiderveld 1994) of OKLab lightness: tile histograms of a copy of 512 px, curves mixed linearly between tile centres; the limit falls to 1 where a tile is plain.',
  resolve: (s, { copy }) => ({
    tiles: Math.round(s.tilesAcross),
    limit: s.limit,
    measured: copy !== undefined,
    ...(s.edition === 'first' ? { first: true } : {}),
  }),
  render: ({ tiles, limit, first }, { copy }) => {
    const picture = limit === 1 ? undefined : copy?.()
    if (!picture) return { kind: 'none' }
    const { width, height } = picture.size
    const side = Math.max(width, height) / tiles
    const [across, down] = [Math.max(1, Math.round(width / side)), Math.max(1, Math.round(height / side))]
    const lightness = lightnessOf(picture)
    const curves = Array.from({ length: across * down }, (_, i) => {
      const [column, row] = [i % across, Math.floor(i / across)]
      const [left, top] = [Math.floor((column * width) / across), Math.floor((row * height) / down)]
      const right = Math.max(left + 1, Math.floor(((column + 1) * width) / across))
      const bottom = Math.max(top + 1, Math.floor(((row + 1) * height) / down))
      const counts = countBins(lightness, width, left, top, right, bottom)
      return [...limitedCurve(counts, first ? limit : limitFor(counts, limit))]
    }).flat()
    return byPosition('oklab', ({ kernels, frame, x, y }, pixels) => {
      const { heap, run } = kernels
      const [stepX, stepY] = [across / frame.width, down / frame.height]
      const tables = heap.floats(curves)
      run.tileCurves(pixels.channels[0], pixels.stride, pixels.width, pixels.height, tables, across, down, stepX, stepY, x, y)
    })
  },
  describe: (s) => `${plainNumber(s.tilesAcross)} ${Math.round(s.tilesAcross) === 1 ? 'tile' : 'tiles'}, limit ${shortNumber(s.limit, 1)}`,
})
