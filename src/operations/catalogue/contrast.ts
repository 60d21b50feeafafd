import { plainNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'

/** This many per cent double, or halve, the steepness at the pivot. */
const percentPerDoubling = 80
/** Brightness bends by a power of at most 2^±1: more would crush one end. */
const percentPerBrightnessDoubling = 100

export const contrast = defineOperation({
  id: 'brightness-contrast',
  name: 'Brightness & contrast',
  group: 'tone',
  purpose: 'Lighter or darker, steeper or flatter, with black and white kept.',
  settings: {
    brightnessPercent: number({
      label: 'Brightness',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 0,
      help: 'Bends the middle up or down; the ends stay.',
    }),
    contrastPercent: number({
      label: 'Contrast',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 15,
      help: 'Steepens or flattens the tones around the pivot.',
    }),
    pivotPercent: number({
      label: 'Pivot',
      unit: '%',
      min: 5,
      max: 95,
      step: 1,
      default: 50,
      help: 'The tone that contrast leaves where it is.',
    }),
  },
  neutral: { brightnessPercent: 0, contrastPercent: 0 },
  method:
    'On sRGB-encoded values: a power for brightness, then two powers that meet at the pivot with the same slope, an S with fixed ends.',
  resolve: (s) => ({
    lift: 2 ** (-s.brightnessPercent / percentPerBrightnessDoubling),
    steepness: 2 ** (s.contrastPercent / percentPerDoubling),
    pivot: s.pivotPercent / 100,
  }),
  render: ({ lift, steepness, pivot }) =>
    lift === 1 && steepness === 1
      ? { kind: 'none' }
      : { kind: 'point', domain: 'encoded', passes: [{ kernel: 'contrast', parameters: [lift, steepness, pivot] }] },
  describe: (s) => {
    const parts = []
    if (s.brightnessPercent !== 0) parts.push(`brightness ${signedNumber(s.brightnessPercent)} %`)
    if (s.contrastPercent !== 0) parts.push(`contrast ${signedNumber(s.contrastPercent)} %`)
    if (s.contrastPercent !== 0 && s.pivotPercent !== 50) parts.push(`about ${plainNumber(s.pivotPercent)} %`)
    return parts.join(', ') || 'no change'
  },
})
