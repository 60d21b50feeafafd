import { describe, expect, it } from 'vitest'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from './kernels'
import { busyPicture } from './pictures'
import { worstDifference } from './render'

/*
 * A picture large enough to be walked in several strips, which keep the rows that the next one needs, against the same picture
 * rendered piece by piece, where nothing is kept.
 */

const source = busyPicture(1400, 3000)
const options = { space: 'srgb', channels: 3, dither: true } as const

const cases: readonly (readonly [string, readonly Step[]])[] = [
  ['a wide blur', [newStep('unsharp-mask', 'a', { amountPercent: 150, radiusPx: 30 })]],
  ['two neighbourhoods in a row', [newStep('unsharp-mask', 'a', { radiusPx: 8 }), newStep('despeckle', 'b', { sizePx: 2 })]],
  [
    'noise reduction before a reduction',
    [
      newStep('exposure', 'a', { exposureEv: 0.3 }),
      newStep('local-contrast', 'b'),
      newStep('noise-reduction', 'c', { level: 'given', noiseLevels: 8 }),
      newStep('crop', 'd', { ratioWidth: 3, ratioHeight: 2, sizePercent: 95 }),
      newStep('resize', 'e', { lengthPx: 900 }),
      newStep('unsharp-mask', 'f'),
    ],
  ],
  [
    'a limit that looks around, a turn, and a mix',
    [
      {
        ...newStep('detail-bands', 'a', { finePercent: 60 }),
        strengthPercent: 70,
        limit: [{ kind: 'edges', join: 'and', inverted: false, settings: { radiusPx: 4, thresholdLevels: 5, featherPx: 20 }, strokes: [] }],
      },
      newStep('turn-mirror', 'b', { turn: 'right' }),
      newStep('unsharp-mask', 'c', { radiusPx: 12 }),
    ],
  ],
]

describe('a picture walked in strips', () => {
  it.each(cases)('%s: is to the bit what its pieces are, wherever they are cut', async (_, steps) => {
    const kernels = await testKernels()
    const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source) })
    const plan = planRender(source, resolved, 'full')
    const whole = renderEncoded(kernels, plan, options)
    const { width, height } = resolved.at(-1)?.sizeAfter ?? source.size
    for (const y of [0, Math.floor(height * 0.37), height - 90]) {
      const rect = { x: 0, y, width, height: 90 }
      const piece = renderEncoded(kernels, plan, options, rect)
      expect(worstDifference(piece, whole.subarray(y * width * 3, (y + 90) * width * 3))).toBe(0)
    }
  })
})
