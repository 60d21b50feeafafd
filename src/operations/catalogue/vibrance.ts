import { plainNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'
import { skinHue } from '../support/skin'

/** From this OKLab chroma on, colours count as strong and stay as they are; sRGB red has 0.26. */
const strongChroma = 0.22
export const vibrance = defineOperation({
  id: 'vibrance',
  name: 'Vibrance',
  group: 'colour',
  purpose: 'Lift weak colours and leave strong ones; skin can be spared.',
  settings: {
    vibrancePercent: number({
      label: 'Vibrance',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 20,
      help: 'Weak colours change by up to this much.',
    }),
    skinGuardPercent: number({
      label: 'Skin guard',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 60,
      help: 'How much the hues of skin are left out.',
    }),
  },
  neutral: { vibrancePercent: 0 },
  method: 'Chroma gain in OKLCh (Ottosson 2020) that falls smoothly to one for strong colours and, with the guard, around the hue of skin.',
  resolve: ({ vibrancePercent, skinGuardPercent }) => ({ amount: vibrancePercent / 100, guard: skinGuardPercent / 100 }),
  render: ({ amount, guard }) => {
    if (amount === 0) return { kind: 'none' }
    return {
      kind: 'point',
      domain: 'oklab',
      passes: [{ kernel: 'vibrance', parameters: [amount, 1 / strongChroma, guard, ...skinHue] }],
    }
  },
  describe: ({ vibrancePercent, skinGuardPercent }) =>
    `${signedNumber(vibrancePercent)} %${skinGuardPercent > 0 ? `, skin guard ${plainNumber(skinGuardPercent)} %` : ''}`,
})
