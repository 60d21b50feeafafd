import { plainNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'

export const bitDepth = defineOperation({
  id: 'bit-depth',
  name: 'Bit depth',
  group: 'conversion',
  purpose: 'Round colours to so many steps a channel, as a file of that depth would.',
  settings: {
    bits: number({
      label: 'Bits',
      unit: '',
      min: 1,
      max: 16,
      step: 1,
      default: 8,
      help: 'A channel. 8 bits have 256 steps, 4 bits 16.',
    }),
  },
  neutral: { bits: 16 },
  method: 'Encoded values times 2^bits − 1, rounded half up, and back; below 0 and above 1 they are cut off.',
  resolve: (s) => ({ bits: Math.round(s.bits) }),
  render: ({ bits }) =>
    bits >= 16 ? { kind: 'none' } : { kind: 'point', domain: 'encoded', passes: [{ kernel: 'quantise', parameters: [2 ** bits - 1] }] },
  describe: (s) => `${plainNumber(s.bits)} bit`,
})
