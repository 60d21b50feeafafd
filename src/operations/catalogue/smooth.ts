import { plainNumber, shortNumber } from '@/base/format'
import { mapPair } from '@/base/tuples'
import { defineOperation, type NeighbourhoodJob } from '../declare/operation'
import { number } from '../declare/settings'
import { gaussianBlur, gaussianReach } from '../support/gaussian'
import { pass, windowOf } from '../support/lightness'

/** Lightness differences that count as flat, at both ends of the setting. */
const flatness = { keepsLittle: 0.1, keepsMuch: 0.005 } as const
/** Windows are Gaussian: this share of the radius is their deviation. */
const sigmaShare = 0.5
const minSigma = 0.2

interface SmoothConstants extends Record<string, number> {
  amount: number
  radiusPx: number
  epsilon: number
}

export const smooth = defineOperation({
  id: 'smooth-areas',
  name: 'Smooth areas',
  group: 'noise',
  purpose: 'Calm skin, glaze and backdrops; edges stay where they are.',
  settings: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, step: 1, default: 50, help: 'How much of the smoothing shows.' }),
    radiusPx: number({
      label: 'Radius',
      unit: 'px',
      min: 1,
      max: 60,
      step: 0.5,
      default: 8,
      logarithmic: true,
      help: 'Unevenness up to this size is calmed.',
    }),
    detailPercent: number({
      label: 'Keep detail',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 50,
      help: 'Higher keeps fainter edges and texture.',
    }),
  },
  neutral: { amountPercent: 0 },
  method: 'Guided filter that guides itself (He, Sun & Tang 2010) on OKLab lightness, with Gaussian windows.',
  resolve: (s): SmoothConstants => ({
    amount: s.amountPercent / 100,
    radiusPx: s.radiusPx,
    epsilon: (flatness.keepsLittle * (flatness.keepsMuch / flatness.keepsLittle) ** (s.detailPercent / 100)) ** 2,
  }),
  render: (c) =>
    c.amount === 0
      ? { kind: 'none' }
      : { kind: 'neighbourhood', domain: 'oklab', reach: (scale) => 2 * gaussianReach(sigmaAt(c, scale)), apply: (job) => calm(job, c) },
  describe: (s) => `${plainNumber(s.amountPercent)} %, ${shortNumber(s.radiusPx, 1)} px, keeps ${plainNumber(s.detailPercent)} % of detail`,
})

const sigmaAt = (c: SmoothConstants, scale: number): number => Math.max(c.radiusPx * sigmaShare * scale, minSigma)

function calm(job: NeighbourhoodJob, c: SmoothConstants): void {
  const { kernels, input, output } = job
  const { heap, run } = kernels
  const sigma = sigmaAt(c, job.scale)
  const reach = gaussianReach(sigma)
  for (const channel of [0, 1, 2]) pass(job, channel)
  heap.scope(() => {
    // Means and coefficients are needed `reach` around the tile: they are blurred once more.
    const [width, height] = [output.width + 2 * reach, output.height + 2 * reach]
    const around = { ...windowOf(job, 0), reach: job.reach - reach, width, height, x: job.x - reach, y: job.y - reach }
    const squares = heap.allocate(input.stride * input.height * 4 + 64)
    run.squarePlane(around.source, squares, input.stride * input.height)
    const mean = gaussianBlur(kernels, around, sigma)
    const a = gaussianBlur(kernels, { ...around, source: squares }, sigma)
    const stride = (width + 3) & ~3
    const b = heap.allocate(stride * height * 4 + 64)
    run.selfGuided(mean, a, b, stride * height, c.epsilon)
    const inner = { stride, reach, width: output.width, height: output.height, x: job.x, y: job.y }
    const [slope, offset] = mapPair([a, b], (source) => gaussianBlur(kernels, { ...inner, source }, sigma))
    const light = output.channels[0]
    const count = output.stride * output.height
    run.affineOf(light, slope, offset, slope, count)
    run.mix(slope, light, count, c.amount)
    new Uint8Array(heap.memory.buffer).copyWithin(light, slope, slope + count * 4)
  })
}
