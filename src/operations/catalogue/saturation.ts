import { signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'

export const saturation = defineOperation({
  id: 'saturation',
  name: 'Saturation',
  group: 'colour',
  purpose: 'Make all colours stronger or weaker; lightness and hue stay.',
  settings: {
    saturationPercent: number({
      label: 'Saturation',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 0,
      help: '−100 % leaves greys, +100 % doubles the chroma.',
    }),
  },
  neutral: { saturationPercent: 0 },
  method: 'Chroma gain in OKLCh (Ottosson 2020).',
  resolve: ({ saturationPercent }) => ({ chromaGain: 1 + saturationPercent / 100 }),
  render: ({ chromaGain }) =>
    chromaGain === 1 ? { kind: 'none' } : { kind: 'point', domain: 'oklab', passes: [{ kernel: 'chromaGain', parameters: [chromaGain] }] },
  describe: ({ saturationPercent }) => `${signedNumber(saturationPercent)} %`,
})
