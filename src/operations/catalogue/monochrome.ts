import { plainNumber } from '@/base/format'
import type { Vector3 } from '@/colour/matrix'
import { oklabToWorking } from '@/colour/oklab'
import { luminanceWeights } from '@/colour/spaces'
import { defineOperation } from '../declare/operation'
import { choice, number, type SettingsOf } from '../declare/settings'

/** Shares of red, green and blue light behind a filter on panchromatic material (common practice, rounded). */
const filters: Readonly<Record<string, { label: string; weights: Vector3 }>> = {
  none: { label: 'None', weights: [0.2627, 0.678, 0.0593] },
  yellow: { label: 'Yellow', weights: [0.42, 0.54, 0.04] },
  orange: { label: 'Orange', weights: [0.62, 0.36, 0.02] },
  red: { label: 'Red', weights: [0.86, 0.13, 0.01] },
  green: { label: 'Green', weights: [0.18, 0.78, 0.04] },
  blue: { label: 'Blue', weights: [0.1, 0.25, 0.65] },
}
const isOwn = { setting: 'filter', is: ['own'] }

const settings = {
  filter: choice({
    label: 'Filter',
    options: [...Object.entries(filters).map(([value, { label }]) => ({ value, label })), { value: 'own', label: 'Own weights' }],
    default: 'none',
    help: 'Lightens its own colour and darkens the opposite one.',
  }),
  redPercent: number({
    label: 'Red',
    unit: '%',
    min: -100,
    max: 200,
    step: 1,
    default: 30,
    help: 'Share of the red light.',
    shownWhen: isOwn,
  }),
  greenPercent: number({
    label: 'Green',
    unit: '%',
    min: -100,
    max: 200,
    step: 1,
    default: 60,
    help: 'Share of the green light.',
    shownWhen: isOwn,
  }),
  bluePercent: number({
    label: 'Blue',
    unit: '%',
    min: -100,
    max: 200,
    step: 1,
    default: 10,
    help: 'Share of the blue light.',
    shownWhen: isOwn,
  }),
  tintHueDegrees: number({
    label: 'Tint hue',
    unit: '°',
    min: 0,
    max: 360,
    step: 1,
    default: 70,
    help: 'Hue of the toned picture: 70° is a warm brown, 250° a cold blue.',
  }),
  tintPercent: number({ label: 'Tint', unit: '%', min: 0, max: 100, step: 1, default: 0, help: '0 % is neutral grey.' }),
}

/** OKLab chroma of a full tint at middle grey: as strong as a deep sepia. */
const fullTintChroma = 0.09
/** Lightness at which the tint's colour is taken. */
const tintLightness = 0.6
/** Own weights that sum to nothing would give black everywhere. */
const minSum = 0.05

function weightsOf(s: SettingsOf<typeof settings>): Vector3 {
  const preset = filters[s.filter]
  if (preset) return preset.weights
  const sum = s.redPercent + s.greenPercent + s.bluePercent
  const scale = Math.abs(sum) < minSum * 100 ? 0.01 : 1 / sum
  return [s.redPercent * scale + 0, s.greenPercent * scale + 0, s.bluePercent * scale + 0]
}

/** The colour that grey light is multiplied with: of the tint's hue, its luminance one. */
function tintOf(hueDegrees: number, percent: number): Vector3 {
  if (percent === 0) return [1, 1, 1]
  const chroma = (percent / 100) * fullTintChroma
  const angle = (hueDegrees * Math.PI) / 180
  const rgb = oklabToWorking([tintLightness, chroma * Math.cos(angle), chroma * Math.sin(angle)])
  const y = rgb[0] * luminanceWeights[0] + rgb[1] * luminanceWeights[1] + rgb[2] * luminanceWeights[2]
  return [rgb[0] / y, rgb[1] / y, rgb[2] / y]
}

export const monochrome = defineOperation({
  id: 'monochrome',
  name: 'Monochrome',
  group: 'colour',
  purpose: 'Black and white as through a filter, neutral or toned.',
  settings,
  neutral: {},
  changesAlways: true,
  method:
    'Weighted sum of linear light with weights that sum to one (luminance of ITU-R BT.2020 without a filter), times a colour of luminance one.',
  resolve: (s) => ({ weights: [...weightsOf(s)], tint: [...tintOf(s.tintHueDegrees, s.tintPercent)] }),
  render: ({ weights, tint }) => ({
    kind: 'point',
    domain: 'linear',
    passes: [{ kernel: 'matrix', parameters: tint.flatMap((gain) => weights.map((weight) => gain * weight)) }],
  }),
  describe: (s) => {
    const filter =
      s.filter === 'own'
        ? `${plainNumber(s.redPercent)} / ${plainNumber(s.greenPercent)} / ${plainNumber(s.bluePercent)}`
        : s.filter === 'none'
          ? 'neutral'
          : `${s.filter} filter`
    return s.tintPercent === 0 ? filter : `${filter}, tint ${plainNumber(s.tintHueDegrees)}° ${plainNumber(s.tintPercent)} %`
  },
})
