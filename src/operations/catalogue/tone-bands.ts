import { signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'
import { byPosition, gridRadius, guidedBase, guidedCoefficients } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'
import { curveTable } from '../support/tables'

const bands = ['deep', 'shadows', 'mids', 'lights', 'peaks'] as const
/** OKLab lightness of the lowest band's middle and the way to the next: mid grey (18 %) is 0.57, white 1. */
const firstCentre = 0.15
const spacing = 0.2

const band = (label: string, help: string) => number({ label, unit: 'EV', min: -3, max: 3, step: 0.05, default: 0, help })

/** Uniform cubic B-spline (de Boor 1978): the weights of neighbouring bands sum to one everywhere. */
function splineWeight(distance: number): number {
  const d = Math.abs(distance)
  if (d >= 2) return 0
  return d >= 1 ? (2 - d) ** 3 / 6 : (4 - 6 * d * d + 3 * d ** 3) / 6
}

/** Stops at a base lightness; the outermost bands go on beyond their middles. */
export function bandStops(stops: readonly number[], lightness: number): number {
  let sum = 0
  for (let i = -2; i < stops.length + 2; i++) {
    const value = stops[Math.min(Math.max(i, 0), stops.length - 1)] ?? 0
    sum += value * splineWeight((Math.min(Math.max(lightness, 0), 1) - firstCentre) / spacing - i)
  }
  return sum
}

/** Flatness below which the base ignores texture, for edge keeping 0 and 100 %: standard deviations of lightness. */
const softestEdge = 0.2
const firmestEdge = 0.02

export const toneBands = defineOperation({
  id: 'tone-bands',
  name: 'Tone bands',
  group: 'tone',
  purpose: 'Lift or lower deep tones, shadows, mids, lights and peaks apart, without flattening texture.',
  settings: {
    deepEv: band('Deep', 'The darkest tones.'),
    shadowsEv: band('Shadows', 'Dark tones with drawing in them.'),
    midsEv: band('Mids', 'Tones around middle grey.'),
    lightsEv: band('Lights', 'Bright tones.'),
    peaksEv: band('Peaks', 'The brightest tones, up to white.'),
    reachPercent: number({
      label: 'Reach',
      unit: '%',
      min: 0.5,
      max: 20,
      step: 0.1,
      default: 3,
      logarithmic: true,
      help: 'Size of the areas that move together, in percent of the long edge.',
    }),
    edgeKeepingPercent: number({
      label: 'Edge keeping',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 60,
      help: 'How firmly areas end at edges: more prevents halos, less keeps texture.',
    }),
  },
  beside: {
    kind: 'toneScale',
    bands: bands.map((name, i) => ({ name, setting: `${name}Ev`, lightness: firstCentre + i * spacing })),
    stopsAt: (s, lightness) =>
      bandStops(
        bands.map((name) => Number(s[`${name}Ev`])),
        lightness,
      ),
  },
  neutral: {},
  method:
    'Stops by a cubic B-spline over the lightness of a guided-filter base (He, Sun & Tang 2010; fast form He & Sun 2015) made on a copy of 512 px; all of OKLab is scaled by the cube root of the gain, which is the same gain in linear light.',
  resolve: (s, { copy }) => ({
    stops: bands.map((name) => s[`${name}Ev`]),
    reach: s.reachPercent / 100,
    epsilon: (softestEdge * (firmestEdge / softestEdge) ** (s.edgeKeepingPercent / 100)) ** 2,
    measured: copy !== undefined,
  }),
  render: ({ stops, reach, epsilon }, { copy }) => {
    const picture = copy?.()
    if (!picture || stops.every((stop) => stop === 0)) return { kind: 'none' }
    const lightness = lightnessOf(picture)
    const radius = gridRadius(picture.size, reach)
    const grid = guidedCoefficients(picture.kernels, lightness, lightness, picture.size, { radius, epsilon })
    const gains = curveTable((base) => 2 ** (bandStops(stops, base) / 3))
    return byPosition('oklab', (job, pixels) => {
      const { run, heap } = job.kernels
      const [l, a, b] = pixels.channels
      const base = guidedBase(job, grid, l, pixels)
      run.gainByTable(l, a, b, base, pixels.stride * pixels.height, heap.floats(gains))
    })
  },
  describe: (s) =>
    bands
      .filter((name) => s[`${name}Ev`] !== 0)
      .map((name) => `${name} ${signedNumber(s[`${name}Ev`], 2)} EV`)
      .join(', ') || 'nothing moved',
})
