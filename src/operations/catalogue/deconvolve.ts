import type { Pointer } from '@kernels/heap'
import { allocatePlane, copyPlane, strideOf } from '@kernels/planes'
import { plainNumber, shortNumber } from '@/base/format'
import { luminanceWeights } from '@/colour/spaces'
import { defineOperation, type NeighbourhoodJob } from '../declare/operation'
import { number } from '../declare/settings'
import { gaussianBlur, gaussianReach } from '../support/gaussian'
import { pass } from '../support/lightness'

/** Light may not rise or fall by more than this: no ringing runs away. */
const maxGain = 3
/** Narrower blurs in a preview have nothing left to sharpen. */
const minSigma = 0.25

interface DeconvolveConstants extends Record<string, number> {
  radiusPx: number
  iterations: number
  guard: number
}

export const deconvolve = defineOperation({
  id: 'deconvolve',
  name: 'Deconvolve',
  group: 'sharpening',
  purpose: 'Undo slight softness of lens or focus by working backwards from the blur.',
  settings: {
    radiusPx: number({
      label: 'Radius',
      unit: 'px',
      min: 0.3,
      max: 4,
      step: 0.05,
      default: 0.8,
      logarithmic: true,
      help: 'Standard deviation of the blur to undo. Too large a radius draws rings.',
    }),
    iterations: number({
      label: 'Rounds',
      unit: '',
      min: 1,
      max: 30,
      step: 1,
      default: 8,
      help: 'More rounds go further back, and bring out more noise.',
    }),
    guardPercent: number({
      label: 'Noise guard',
      unit: '%',
      min: 0,
      max: 20,
      step: 0.1,
      default: 1.5,
      help: 'Differences smaller than this share of the light are taken for noise.',
    }),
  },
  neutral: {},
  changesAlways: true,
  method:
    'Richardson–Lucy iteration (Richardson 1972, Lucy 1974) on linear luminance with a Gaussian, the feedback soft-thresholded against noise; colour follows the light.',
  resolve: (s): DeconvolveConstants => ({ radiusPx: s.radiusPx, iterations: Math.round(s.iterations), guard: s.guardPercent / 100 }),
  render: (c) => ({
    kind: 'neighbourhood',
    domain: 'linear',
    reach: (scale) => (c.radiusPx * scale < minSigma ? 0 : 2 * c.iterations * gaussianReach(c.radiusPx * scale)),
    apply: (job) => (job.reach === 0 ? [0, 1, 2].forEach((channel) => void pass(job, channel)) : sharpen(job, c)),
  }),
  describe: (s) => `${shortNumber(s.radiusPx)} px, ${plainNumber(s.iterations)} ${s.iterations === 1 ? 'round' : 'rounds'}`,
})

function sharpen(job: NeighbourhoodJob, { radiusPx, iterations, guard }: DeconvolveConstants): void {
  const { kernels, input, output, scale } = job
  const { heap, run } = kernels
  const sigma = radiusPx * scale
  const step = gaussianReach(sigma)
  for (const channel of [0, 1, 2]) pass(job, channel)
  heap.scope(() => {
    const weights = heap.floats(luminanceWeights)
    const seen = allocatePlane(heap, input.width, input.height)
    run.weighPlanes(...input.channels, seen, input.stride * input.height, weights)
    /** The part of a plane of `margin` around the tile that has `wanted` around it. */
    const inset = (plane: Pointer, margin: number, wanted: number): Pointer => {
      const [width, height] = [output.width + 2 * wanted, output.height + 2 * wanted]
      const part = allocatePlane(heap, width, height)
      const stride = strideOf(output.width + 2 * margin)
      copyPlane(heap, plane, stride, margin - wanted, margin - wanted, part, { width, height, stride: strideOf(width) })
      return part
    }
    const blur = (plane: Pointer, margin: number): Pointer => {
      const inner = margin - step
      const [width, height] = [output.width + 2 * inner, output.height + 2 * inner]
      const stride = strideOf(output.width + 2 * margin)
      return gaussianBlur(kernels, { source: plane, stride, reach: step, width, height, x: 0, y: 0 }, sigma)
    }
    let margin = job.reach
    const estimate = allocatePlane(heap, input.width, input.height)
    copyPlane(heap, seen, input.stride, 0, 0, estimate, input)
    for (let round = 0; round < iterations; round++)
      heap.scope(() => {
        const middle = margin - step
        const inner = margin - 2 * step
        const count = (around: number): number => strideOf(output.width + 2 * around) * (output.height + 2 * around)
        const expected = blur(estimate, margin)
        run.feedback(inset(seen, job.reach, middle), expected, expected, count(middle), guard)
        const correction = blur(expected, middle)
        const before = inset(estimate, margin, inner)
        run.multiplyPlanes(before, correction, estimate, count(inner))
        margin = inner
      })
    const before = inset(seen, job.reach, 0)
    run.followLight(...output.channels, before, estimate, output.stride * output.height, maxGain)
  })
}
