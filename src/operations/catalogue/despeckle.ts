import { plainNumber } from '@/base/format'
import { numberAt } from '@/base/numbers'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'
import { pass } from '../support/lightness'

/** In a preview smaller than this, specks are averaged away. */
const minScale = 0.5

export const despeckle = defineOperation({
  id: 'despeckle',
  name: 'Despeckle',
  group: 'noise',
  purpose: 'Replace hot pixels and specks of dust; everything else stays as it is.',
  settings: {
    sizePx: number({ label: 'Size', unit: 'px', min: 1, max: 3, step: 1, default: 1, help: 'The largest speck that is replaced.' }),
    thresholdLevels: number({
      label: 'Threshold',
      unit: 'levels',
      min: 1,
      max: 255,
      step: 1,
      default: 20,
      help: 'How far a speck must stand out of its surroundings, on the scale of 0–255. At 255 nothing does.',
    }),
  },
  neutral: { thresholdLevels: 255 },
  method:
    'Switching median (Sun & Neuvo 1994): a value outside what seven of its eight neighbours span becomes their median, channel by channel; lines are kept.',
  resolve: (s) => ({ sizePx: Math.round(s.sizePx), threshold: s.thresholdLevels / 255 }),
  render: ({ sizePx, threshold }) =>
    threshold >= 1
      ? { kind: 'none' }
      : {
          kind: 'neighbourhood',
          domain: 'encoded',
          reach: (scale) => (scale < minScale ? 0 : Math.max(1, Math.round(sizePx * scale))),
          apply: (job) => {
            const { input, output, reach, kernels } = job
            for (const [channel, target] of output.channels.entries()) {
              if (reach === 0) pass(job, channel)
              const first = numberAt(input.channels, channel) + (reach * input.stride + reach) * 4
              for (let row = 0; reach > 0 && row < output.height; row++) {
                const at = first + row * input.stride * 4
                kernels.run.despeckleRow(at, input.stride, target + row * output.stride * 4, output.width, reach, threshold)
              }
            }
          },
        },
  describe: (s) => `up to ${plainNumber(s.sizePx)} px, threshold ${plainNumber(s.thresholdLevels)}`,
})
