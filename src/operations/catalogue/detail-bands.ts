import { signedNumber } from '@/base/format'
import { numberAt } from '@/base/numbers'
import { defineOperation, type NeighbourhoodJob } from '../declare/operation'
import { number } from '../declare/settings'
import { gaussianBlur, gaussianReach } from '../support/gaussian'
import { pass, windowOf } from '../support/lightness'

/** Bands lie between these blurs, in full-size pixels: each about 2.5 times as coarse as the one before. */
const bandSigmasPx = [0.9, 2.2, 5.5] as const
/** A blur narrower than this in a preview has no pixels to show. */
const minSigma = 0.2

const band = (label: string, size: string) =>
  number({ label, unit: '%', min: -100, max: 100, step: 1, default: 0, help: `Lifts or smooths detail ${size}.` })

export const detailBands = defineOperation({
  id: 'detail-bands',
  name: 'Detail bands',
  group: 'sharpening',
  purpose: 'Lift or calm fine, medium and coarse detail, each by itself.',
  settings: {
    finePercent: { ...band('Fine', 'of one or two pixels'), default: 20 },
    mediumPercent: band('Medium', 'of about five pixels'),
    coarsePercent: band('Coarse', 'of about twelve pixels'),
    noiseLevels: number({
      label: 'Noise guard',
      unit: 'levels',
      min: 0,
      max: 20,
      step: 0.1,
      default: 1,
      help: 'Detail fainter than this is not lifted, on the scale of 0–255.',
    }),
  },
  neutral: { finePercent: 0, mediumPercent: 0, coarsePercent: 0 },
  method:
    'OKLab lightness split into undecimated bands between Gaussian blurs (Burt & Adelson 1983, without the decimation); each comes back times 1 + its gain, soft-thresholded where it is lifted.',
  resolve: (s) => ({ gains: [s.finePercent / 100, s.mediumPercent / 100, s.coarsePercent / 100], guard: s.noiseLevels / 255 }),
  render: ({ gains, guard }) => {
    const used = gains.flatMap((gain, i) => (gain === 0 ? [] : [i]))
    if (used.length === 0) return { kind: 'none' }
    const coarsest = numberAt(bandSigmasPx, Math.max(...used))
    return {
      kind: 'neighbourhood',
      domain: 'oklab',
      reach: (scale) => gaussianReach(Math.max(coarsest * scale, minSigma)),
      apply: (job) => lift(job, gains, guard),
    }
  },
  describe: (s) => {
    const parts = [
      ['fine', s.finePercent],
      ['medium', s.mediumPercent],
      ['coarse', s.coarsePercent],
    ] as const
    const used = parts.filter(([, percent]) => percent !== 0).map(([name, percent]) => `${name} ${signedNumber(percent)} %`)
    return used.length > 0 ? used.join(', ') : 'no change'
  },
})

function lift(job: NeighbourhoodJob, gains: readonly number[], guard: number): void {
  const { heap, run } = job.kernels
  for (const channel of [0, 1, 2]) pass(job, channel)
  const { output, scale } = job
  const target = numberAt(output.channels, 0)
  const count = output.stride * output.height
  heap.scope(() => {
    let upper = heap.allocate(count * 4)
    new Uint8Array(heap.memory.buffer).copyWithin(upper, target, target + count * 4)
    for (const [i, gain] of gains.entries()) {
      // A band whose blurs are both too narrow for this preview is empty.
      const sigma = numberAt(bandSigmasPx, i) * scale
      if (sigma < minSigma || gains.slice(i).every((other) => other === 0)) continue
      const lower = gaussianBlur(job.kernels, windowOf(job, 0), sigma)
      if (gain !== 0) run.addBand(target, upper, lower, count, gain, gain > 0 ? guard : 0)
      upper = lower
    }
  })
}
