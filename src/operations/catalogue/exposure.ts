import { moreOrLess, plainNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'

/** The knee at full shoulder: a fifth of white. Lower would flatten mid tones too. */
const lowestKnee = 0.2

export const exposure = defineOperation({
  id: 'exposure',
  name: 'Exposure',
  group: 'tone',
  purpose: 'Brighten or darken as the camera would have, in stops.',
  settings: {
    exposureEv: number({
      label: 'Exposure',
      unit: 'EV',
      min: -5,
      max: 5,
      step: 0.01,
      default: 0,
      help: 'One stop doubles or halves the light.',
    }),
    shoulderPercent: number({
      label: 'Highlight shoulder',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 0,
      help: 'Rolls bright areas off softly instead of clipping them; hue is kept.',
    }),
  },
  onSensor: true,
  neutral: { exposureEv: 0, shoulderPercent: 0 },
  method: 'Linear gain 2^EV (common practice: 1 EV doubles the exposure); above a knee the largest channel follows a rational shoulder.',
  resolve: ({ exposureEv, shoulderPercent }) => ({ gain: 2 ** exposureEv, knee: 1 - (shoulderPercent / 100) * (1 - lowestKnee) }),
  render: ({ gain, knee }) =>
    gain === 1 && knee === 1
      ? { kind: 'none' }
      : { kind: 'point', domain: 'linear', passes: [{ kernel: 'exposure', parameters: [gain, knee] }] },
  changeInWords: (to, from) => {
    const by = Number(to.exposureEv) - Number(from?.exposureEv ?? 0)
    return to.shoulderPercent === (from?.shoulderPercent ?? 0) ? moreOrLess(by, ' EV', ['brighter', 'darker'], 2) : undefined
  },
  describe: ({ exposureEv, shoulderPercent }) =>
    `${signedNumber(exposureEv, 2)} EV${shoulderPercent > 0 ? `, shoulder ${plainNumber(shoulderPercent)} %` : ''}`,
})
