import { describe, expect, it } from 'vitest'
import type { Rect } from '@/base/geometry'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { worstDifference } from '../../tests/render'
import { planRender } from './plan'
import { holdFrame, renderEncoded, renderFrame, renderPatch } from './render'
import { resolveSteps } from './resolve'

const source = busyPicture(140, 90)
const options = { space: 'srgb', channels: 3, dither: true } as const
const first = [newStep('exposure', 'a', { exposureEv: 0.4 }), newStep('unsharp-mask', 'b')]

/** Steps that go on from a frame in every way there is: where it lies, pixel by pixel, and with neighbours. */
const goingOn: [string, Step[]][] = [
  ['nothing', []],
  ['a reduction', [newStep('resize', 'r', { by: 'longEdge', lengthPx: 51 })]],
  ['a point function', [newStep('saturation', 's', { saturationPercent: 40 })]],
  ['neighbours', [newStep('unsharp-mask', 'u', { radiusPx: 3 })]],
  ['a crop and a turn', [newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }), newStep('turn-mirror', 't', { turn: 'right' })]],
  ['a slant', [newStep('straighten', 'z', { by: 'angle', angleDegrees: 4 })]],
]

describe('a frame that is held in the kernels’ memory', () => {
  it.each(goingOn)('gives what the same frame kept outside gives, to the bit: %s', async (_, steps) => {
    const kernels = await testKernels()
    const plan = planRender(source, resolveSteps(first, source.size), 'full')
    const own = resolveSteps(steps, source.size)
    kernels.heap.scope(() => {
      const held = holdFrame(kernels, plan)
      const kept = renderFrame(kernels, plan)
      const expected = renderEncoded(kernels, planRender(kept, own, 'full'), options)
      // Twice: the first must not have written to what the second reads.
      for (let time = 0; time < 2; time++)
        expect(worstDifference(renderEncoded(kernels, planRender(held, own, 'full'), options), expected)).toBe(0)
    })
  })
  it('can be held in linear light, where what goes on would go there first', async () => {
    const kernels = await testKernels()
    const all = [...first, newStep('vibrance', 'v'), newStep('resize', 'r', { by: 'longEdge', lengthPx: 60 })]
    const steps = resolveSteps(all, source.size)
    const before = planRender(source, steps.slice(0, 3), 'full')
    kernels.heap.scope(() => {
      const held = holdFrame(kernels, before, 'linear')
      expect(held.domain).toBe('linear')
      const inOneGo = renderEncoded(kernels, planRender(source, steps, 'full'), options)
      expect(worstDifference(renderEncoded(kernels, planRender(held, steps.slice(3), 'full'), options), inOneGo)).toBe(0)
    })
  })
  it('repeats its edge outwards like any other picture', async () => {
    const kernels = await testKernels()
    const plan = planRender(source, resolveSteps(first, source.size), 'full')
    kernels.heap.scope(() => {
      const [held, kept] = [holdFrame(kernels, plan), renderFrame(kernels, plan)]
      for (const rect of [
        { x: -7, y: -3, width: 30, height: 20 },
        { x: 120, y: 70, width: 40, height: 40 },
      ] satisfies Rect[]) {
        const patch = (from: typeof held | typeof kept) => renderPatch(kernels, planRender(from, [], 'full'), rect).planes
        expect(worstDifference(patch(held), patch(kept))).toBe(0)
      }
    })
  })
  it('is given back with the mark it was made behind', async () => {
    const { heap } = await testKernels()
    const mark = heap.mark()
    const at = heap.allocate(1000)
    heap.release(mark)
    expect(heap.allocate(16)).toBe(at)
    heap.release(mark)
  })
})
