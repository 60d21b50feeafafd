import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, type Planes, strideOf } from '@kernels/planes'
import { plainNumber, shortNumber } from '@/base/format'
import { defineOperation, type NeighbourhoodJob } from '../declare/operation'
import { number, renamed } from '../declare/settings'
import { gaussianBlur, gaussianReach, gaussianWeights } from '../support/gaussian'
import { byPosition } from '../support/grid'

/** Standard deviation of lightness in the middle tones at 100 %. */
const strongest = 0.12
/** The finer grain is this much smaller. */
const finerBy = 0.4
/** Below this a blur moves nothing. */
const minSigma = 0.3

interface Layer {
  readonly sigmaPx: number
  readonly share: number
  readonly seed: number
}

/** Standard deviation left of white noise, one value a full-size pixel, after the Gaussian and, in a preview, after reduction. */
function deviationOf(sigmaPx: number, scale: number): number {
  const variance = (sigma: number): number => {
    const weights = gaussianWeights(Math.max(sigma, minSigma), Math.ceil(4 * Math.max(sigma, minSigma)))
    return weights.reduce((sum, weight, k) => sum + (k === 0 ? 1 : 2) * weight * weight, 0) ** 2
  }
  // Reducing averages over 1/scale pixels: a box of variance (1/scale² − 1)/12 beside the Gaussian's own.
  const widened = Math.sqrt(sigmaPx ** 2 + (1 / scale ** 2 - 1) / 12)
  return Math.sqrt(variance(widened) / variance(sigmaPx))
}

function drawLayer(kernels: Kernels, { scale, x, y }: NeighbourhoodJob, pixels: Planes, layer: Layer): Pointer {
  const { heap, run } = kernels
  // As wide as its rows lie apart: what is drawn lies as they do.
  const wide = pixels.stride
  const result = allocatePlane(heap, wide, pixels.height)
  heap.scope(() => {
    const sigma = Math.max(layer.sigmaPx * scale, minSigma)
    const reach = gaussianReach(sigma)
    const [width, height] = [wide + 2 * reach, pixels.height + 2 * reach]
    const noise = allocatePlane(heap, width, height)
    run.placeGrain(noise, strideOf(width), width, height, x - reach, y - reach, layer.seed)
    const window = { source: noise, stride: strideOf(width), reach, width: wide, height: pixels.height, x, y }
    const blurred = gaussianBlur(kernels, window, sigma)
    const bytes = wide * pixels.height * 4
    new Uint8Array(heap.memory.buffer).copyWithin(result, blurred, blurred + bytes)
  })
  return result
}

/** What brings a blurred layer back to a deviation of 1 at full size, and to what is left of it at a smaller scale. */
function layerGain(sigmaPx: number, scale: number): number {
  const sigma = Math.max(sigmaPx * scale, minSigma)
  const weights = gaussianWeights(sigma, Math.ceil(4 * sigma))
  return deviationOf(sigmaPx, scale) / weights.reduce((sum, weight, k) => sum + (k === 0 ? 1 : 2) * weight * weight, 0)
}

export const grain = defineOperation({
  id: 'grain',
  name: 'Grain',
  group: 'tone',
  purpose: 'Lay fine grain over the lightness, never twice the same, always the same for one picture.',
  settings: {
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 15,
      help: 'How strong the grain is in the middle tones.',
    }),
    sizePx: number({
      label: 'Size',
      unit: 'px',
      min: 0.3,
      max: 8,
      step: 0.1,
      default: 0.9,
      logarithmic: true,
      help: 'Standard deviation of one grain, in full-size pixels.',
    }),
    finerPercent: number({
      label: 'Finer grain',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 30,
      help: 'How much of a finer grain is mixed in.',
    }),
  },
  upgrade: (old) => renamed(old, { roughnessPercent: 'finerPercent' }),
  neutral: { amountPercent: 0 },
  method:
    'White noise from each pixel’s place and a seed from the picture’s name, band-limited by a Gaussian, added to OKLab lightness with weight 4L(1 − L).',
  resolve: (s, { seed = 0 }) => ({
    amount: (s.amountPercent / 100) * strongest,
    sizePx: s.sizePx,
    finer: s.finerPercent / 100,
    seed,
  }),
  render: ({ amount, sizePx, finer, seed }) => {
    if (amount === 0) return { kind: 'none' }
    const whole = Math.hypot(1 - finer, finer)
    const layers: readonly Layer[] = [
      { sigmaPx: sizePx, share: (1 - finer) / whole, seed: seed | 0 },
      { sigmaPx: sizePx * finerBy, share: finer / whole, seed: (seed + 0x51ed270b) | 0 },
    ]
    return byPosition('oklab', (job, pixels) => {
      for (const layer of layers) {
        if (layer.share === 0) continue
        const drawn = drawLayer(job.kernels, job, pixels, layer)
        const gain = amount * layer.share * layerGain(layer.sigmaPx, job.scale)
        job.kernels.run.addGrain(pixels.channels[0], drawn, pixels.stride * pixels.height, gain)
      }
    })
  },
  describe: (s) => `${plainNumber(s.amountPercent)} %, ${shortNumber(s.sizePx, 1)} px, ${plainNumber(s.finerPercent)} % finer`,
})
