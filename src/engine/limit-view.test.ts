import { describe, expect, it } from 'vitest'
import { newLimit } from '@/macros/limit'
import { newStep } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture, greyPicture } from '../../tests/pictures'
import { renderSteps } from '../../tests/render'
import { renderLimit } from './limit-view'
import { planRender } from './plan'

const of = (kind: Parameters<typeof newLimit>[0], settings: Record<string, number>) => {
  const limit = newLimit(kind)
  return { ...limit, settings: { ...limit.settings, ...settings } }
}

describe('a limit drawn for the eye', () => {
  it('is the share of a step that a run mixes in, at every pixel', async () => {
    const source = greyPicture(240, 160, (x) => 40 + x / 2)
    const limits = [of('tone', { fromPercent: 30, toPercent: 60 }), { ...of('radial', { radiusXPercent: 20 }), join: 'without' as const }]
    const mask = renderLimit(await testKernels(), planRender(source, [], 'full'), limits)
    // Black behind the limit: what is left of a grey is what the limit spares.
    const black = { ...newStep('levels', 'a', { allOutWhite: 0 }), limit: limits }
    const { pixels } = await renderSteps(source, [black])
    for (let i = 0; i < mask.length; i += 7) {
      const left = (source.pixels[i * 3] ?? 0) * (1 - (mask[i] ?? 0) / 255)
      expect(Math.abs((pixels[i * 3] ?? 0) - left)).toBeLessThanOrEqual(1.5)
    }
    expect(Math.max(...mask)).toBe(255)
    expect(Math.min(...mask)).toBe(0)
  })
  it('is the same in pieces as as a whole, over strips too', async () => {
    const source = busyPicture(90, 700)
    const kernels = await testKernels()
    const plan = planRender(source, [], 'full')
    const limit = [of('edges', { radiusPx: 3, featherPx: 15 })]
    const whole = renderLimit(kernels, plan, limit)
    const rect = { x: 13, y: 250, width: 60, height: 40 }
    const piece = renderLimit(kernels, plan, limit, rect)
    for (let y = 0; y < 40; y++)
      expect(piece.subarray(y * 60, y * 60 + 60)).toEqual(whole.subarray((250 + y) * 90 + 13, (250 + y) * 90 + 73))
  })
})
