import type { Pointer } from '@kernels/heap'
import { plainNumber, signedNumber } from '@/base/format'
import { floatAt } from '@/base/numbers'
import { srgbTransfer } from '@/colour/transfer'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { defineOperation, type Grid } from '../declare/operation'
import { choice, number } from '../declare/settings'
import { byPosition, expandGrid, gridRadius, guidedCoefficients, lightnessPlane } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'

/** Windows of the dark channel and of its refinement, as shares of the long edge (He 2009: 15 and about 40 px of 600). */
const darkShare = 7 / 600
const refineShare = 20 / 600
/** Flatness of the guide in the refinement; its square is the paper's 10⁻³. */
const refineEdge = 0.0316
/** Some haze is left at the strongest, so that distance still reads, and nothing is divided by less than this (He 2009: ω, t₀). */
const maxTaken = 0.95
const minTransmission = 0.1
/** Airlight is looked for among this share of the haziest pixels (He 2009). */
const haziestShare = 0.001

/** The smallest value within `radius` pixels, by rows, then by columns. */
function localMinimum(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const along = (source: Float32Array, length: number, step: number, lines: number, lineStep: number): Float32Array => {
    const result = new Float32Array(source.length)
    for (let line = 0; line < lines; line++)
      for (let i = 0; i < length; i++) {
        let min = Number.POSITIVE_INFINITY
        for (let k = Math.max(0, i - radius); k <= Math.min(length - 1, i + radius); k++)
          min = Math.min(min, floatAt(source, line * lineStep + k * step))
        result[line * lineStep + i * step] = min
      }
    return result
  }
  return along(along(plane, width, 1, height, width), height, width, width, 1)
}

/** The dark channel of a picture whose channels are divided by `air`. */
function darkChannel({ size, planes }: LinearPicture, air: readonly number[]): Float32Array {
  const length = size.width * size.height
  const min = Float32Array.from({ length }, (_, i) =>
    Math.max(0, Math.min(...air.map((value, channel) => floatAt(planes, channel * length + i) / value))),
  )
  return localMinimum(min, size.width, size.height, gridRadius(size, darkShare))
}

/** The brightest of the haziest pixels: what a thing infinitely far away would look like. */
function findAirlight(picture: LinearPicture): number[] {
  const length = picture.size.width * picture.size.height
  const dark = darkChannel(picture, [1, 1, 1])
  const limit = quantile(dark, 1 - haziestShare)
  const sum = (i: number): number => [0, 1, 2].reduce((total, channel) => total + floatAt(picture.planes, channel * length + i), 0)
  let best = 0
  for (let i = 0; i < length; i++) if (floatAt(dark, i) >= limit && (sum(i) > sum(best) || floatAt(dark, best) < limit)) best = i
  return [0, 1, 2].map((channel) => Math.max(0.05, floatAt(picture.planes, channel * length + best)))
}

/** a and b with which the picture's lightness gives the transmission, edges kept. */
function transmissionGrid(picture: LinearPicture, air: readonly number[], taken: number): Grid {
  const raw = darkChannel(picture, air).map((dark) => 1 - taken * Math.min(1, dark))
  return guidedCoefficients(picture.kernels, lightnessOf(picture), raw, picture.size, {
    radius: gridRadius(picture.size, refineShare),
    epsilon: refineEdge ** 2,
  })
}

const air = (label: string) =>
  number({
    label,
    unit: 'levels',
    min: 16,
    max: 255,
    step: 1,
    default: 220,
    help: 'Colour of the haze, as an sRGB-encoded code of the working space.',
    shownWhen: { setting: 'airlight', is: ['given'] },
  })

export const haze = defineOperation({
  id: 'haze',
  name: 'Haze',
  group: 'tone',
  purpose: 'Take haze or smoke out of the distance, or lay some on.',
  settings: {
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 40,
      help: 'Above 0 takes haze away, below 0 lays it on.',
    }),
    airlight: choice({
      label: 'Airlight',
      options: [
        { value: 'auto', label: 'Found' },
        { value: 'given', label: 'Given' },
      ],
      default: 'auto',
      help: 'The colour of the haze: found in each picture, or the same for all.',
    }),
    airRedLevels: air('Air red'),
    airGreenLevels: air('Air green'),
    airBlueLevels: air('Air blue'),
  },
  neutral: { amountPercent: 0 },
  method:
    'Dark channel prior (He, Sun & Tang 2009) on a copy of 512 px, its transmission refined by a guided filter on lightness; the picture is solved for what lies behind the airlight.',
  resolve: (s, { copy }) => {
    const picture = s.airlight === 'auto' && s.amountPercent !== 0 ? copy?.() : undefined
    const given = [s.airRedLevels, s.airGreenLevels, s.airBlueLevels].map((code) => srgbTransfer.decode(code / 255))
    return { amount: s.amountPercent / 100, air: picture ? findAirlight(picture) : given }
  },
  render: ({ amount, air: airlight }, { copy }) => {
    const picture = amount === 0 ? undefined : copy?.()
    if (!picture) return { kind: 'none' }
    const grid = transmissionGrid(picture, airlight, Math.abs(amount) * maxTaken)
    return byPosition('linear', (job, pixels) => {
      const { run, heap } = job.kernels
      const [r, g, b] = pixels.channels
      const count = pixels.stride * pixels.height
      const [a, offset] = expandGrid(job, grid, pixels) as [Pointer, Pointer]
      run.affineOf(lightnessPlane(job.kernels, pixels), a, offset, a, count)
      run.clampPlane(a, count, minTransmission, 1)
      run.haze(r, g, b, a, count, heap.floats([...airlight, amount < 0 ? 1 : 0]))
    })
  },
  describe: (s) =>
    `${signedNumber(s.amountPercent)} %${s.airlight === 'given' ? `, air ${plainNumber(s.airRedLevels)}, ${plainNumber(s.airGreenLevels)}, ${plainNumber(s.airBlueLevels)}` : ''}`,
  describeConstants: ({ air: found }) => `airlight ${found.map((value) => Math.round(srgbTransfer.encode(value) * 255)).join(', ')}`,
})
