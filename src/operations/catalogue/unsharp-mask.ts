import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, copyPlane, strideOf } from '@kernels/planes'
import { plainNumber, shortNumber } from '@/base/format'
import { numberAt } from '@/base/numbers'
import { defineOperation, type Effect, type NeighbourhoodJob } from '../declare/operation'
import { number, toggle } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { gaussianBlur, gaussianReach, type PlaneWindow } from '../support/gaussian'

/** Below this, a blur moves nothing that 8 bits could show. */
const minSigma = 0.1
/** Overshoot is judged against this wide a surrounding at most; wider would let halos through again. */
const widestWindow = 8

export interface UnsharpConstants extends Record<string, number | boolean> {
  amount: number
  radiusPx: number
  threshold: number
  haloLimit: number
  lightnessOnly: boolean
  /** The threshold is taken off every difference, as at first. */
  first: boolean
}

export const unsharpMask = defineOperation({
  id: 'unsharp-mask',
  name: 'Unsharp mask',
  group: 'sharpening',
  purpose: 'Crisper edges by lifting the difference to a blurred copy, with halos held back.',
  settings: {
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 500,
      step: 1,
      default: 90,
      help: 'How much of the difference is added.',
    }),
    radiusPx: number({
      label: 'Radius',
      unit: 'px',
      min: 0.3,
      max: 50,
      step: 0.1,
      default: 0.8,
      logarithmic: true,
      help: 'Standard deviation of the Gaussian blur, in full-size pixels.',
    }),
    thresholdLevels: number({
      label: 'Threshold',
      unit: 'levels',
      min: 0,
      max: 255,
      step: 1,
      default: 2,
      help: 'Differences below this stay as they are, so that noise and smooth areas are left alone.',
    }),
    haloLimitLevels: number({
      label: 'Halo limit',
      unit: 'levels',
      min: 0,
      max: 255,
      step: 1,
      default: 8,
      help: 'How far an edge may overshoot the lightest and darkest tones around it.',
    }),
    lightnessOnly: toggle({
      label: 'Lightness only',
      default: true,
      help: 'Leaves colour alone, so that strong colours keep their saturation.',
    }),
    edition: editionSetting('At first, the threshold was taken off every difference: little was left of what a good lens draws.'),
  },
  upgrade: (old) => withEdition(old),
  neutral: { amountPercent: 0 },
  method:
    'Plane plus amount × (plane − Gaussian), the difference shrunk by a non-negative garrote (Breiman 1995), the result held within the local range plus the halo limit. OKLab lightness, or sRGB-encoded channels.',
  resolve: (s): UnsharpConstants => ({
    amount: s.amountPercent / 100,
    radiusPx: s.radiusPx,
    threshold: s.thresholdLevels / 255,
    haloLimit: s.haloLimitLevels / 255,
    lightnessOnly: s.lightnessOnly,
    first: s.edition === 'first',
  }),
  render: (constants) => (constants.amount === 0 ? { kind: 'none' } : unsharpEffect(constants)),
  describe: (s) =>
    `${plainNumber(s.amountPercent)} %, ${shortNumber(s.radiusPx)} px${s.thresholdLevels > 0 ? `, threshold ${plainNumber(s.thresholdLevels)}` : ''}`,
})

/** Amounts and limits 0–1 and up, lengths in full-size pixels. */
export const unsharpEffect = (constants: UnsharpConstants): Effect => ({
  kind: 'neighbourhood',
  domain: constants.lightnessOnly ? 'oklab' : 'encoded',
  reach: (scale) => Math.max(gaussianReach(sigmaAt(constants, scale)), windowAt(constants, scale)),
  apply: (job) => sharpen(job, constants),
})

const sigmaAt = (c: UnsharpConstants, scale: number): number => Math.max(c.radiusPx * scale, minSigma)
const windowAt = (c: UnsharpConstants, scale: number): number => Math.min(Math.max(1, Math.round(c.radiusPx * scale)), widestWindow)

function sharpen(job: NeighbourhoodJob, constants: UnsharpConstants): void {
  const { kernels, input, output, reach } = job
  output.channels.forEach((target, channel) => {
    const source = numberAt(input.channels, channel)
    if (constants.lightnessOnly && channel > 0) copyPlane(kernels.heap, source, input.stride, reach, reach, target, output)
    else kernels.heap.scope(() => sharpenPlane(job, source, target, constants))
  })
}

function sharpenPlane(job: NeighbourhoodJob, source: Pointer, target: Pointer, c: UnsharpConstants): void {
  const { kernels, input, output, reach, scale, x, y } = job
  const window: PlaneWindow = { source, stride: input.stride, reach, width: output.width, height: output.height, x, y }
  const blurred = gaussianBlur(kernels, window, sigmaAt(c, scale))
  const lowest = localExtreme(kernels, window, windowAt(c, scale), 0)
  const highest = localExtreme(kernels, window, windowAt(c, scale), 1)
  const shrink = c.first ? kernels.run.unsharpRow : kernels.run.crispRow
  const centre = source + (reach * input.stride + reach) * 4
  for (let row = 0; row < output.height; row++) {
    const at = row * output.stride * 4
    shrink(
      centre + row * input.stride * 4,
      blurred + at,
      lowest + at,
      highest + at,
      target + at,
      output.stride,
      c.amount,
      c.threshold,
      c.haloLimit,
    )
  }
}

/** The smallest or largest value within `radius` pixels of each output pixel. */
function localExtreme({ run, heap }: Kernels, w: PlaneWindow, radius: number, largest: 0 | 1): Pointer {
  const stride = strideOf(w.width)
  const rows = w.height + 2 * radius
  const result = allocatePlane(heap, w.width, w.height)
  heap.scope(() => {
    const middle = allocatePlane(heap, w.width, rows)
    const extra = w.reach - radius
    run.windowRows(w.source + (extra * w.stride + extra) * 4, w.stride, middle, stride, stride, rows, radius, largest)
    run.windowColumns(middle, stride, result, stride, stride, w.height, radius, largest)
  })
  return result
}
