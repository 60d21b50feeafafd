import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { areaCopy, isEightBit } from './area-copy'
import { planRender } from './plan'
import { renderFrame } from './render'
import { resolveSteps } from './resolve'
import { createSampler } from './sampler'

const source = busyPicture(700, 500)
/** Point functions, what measures, what takes neighbours, another size, and point functions again. */
const macro: readonly Step[] = [
  newStep('full-range', 'range', { keep: 'balanced' }),
  newStep('exposure', 'light', { exposureEv: 0.3, shoulderPercent: 30 }),
  newStep('curve', 'curve', {
    all: [
      [0, 0],
      [64, 50],
      [255, 255],
    ],
  }),
  newStep('local-contrast', 'local'),
  newStep('crop', 'crop', { ratioWidth: 1, ratioHeight: 1 }),
  newStep('vibrance', 'vibrance', { vibrancePercent: 30 }),
  newStep('exposure', 'later', { exposureEv: -0.2 }),
]

/** To the bit. */
const bytesOf = ({ planes }: { readonly planes: Float32Array }): string => createHash('sha256').update(planes).digest('hex')

async function resolved() {
  const kernels = await testKernels()
  return { kernels, steps: resolveSteps(macro, source.size, { sampler: createSampler(kernels, source) }) }
}

describe('the copy that operations measure', () => {
  it('depends on the steps before it alone, whatever was asked before', async () => {
    const { kernels, steps } = await resolved()
    const asked = createSampler(kernels, source)
    for (let count = 0; count <= steps.length; count++) {
      const before = steps.slice(0, count)
      const [own, fresh] = [asked.copy(before), createSampler(kernels, source).copy(before)]
      expect(own.size).toEqual(fresh.size)
      expect(bytesOf(own)).toBe(bytesOf(fresh))
    }
    // Backwards, on another that has forgotten nothing and known nothing.
    const backwards = createSampler(kernels, source)
    for (let count = steps.length; count >= 0; count--)
      expect(bytesOf(backwards.copy(steps.slice(0, count)))).toBe(bytesOf(asked.copy(steps.slice(0, count))))
  })
  it('goes through point functions as a render does: together, on the small copy, in linear light', async () => {
    const { kernels, steps } = await resolved()
    if (!isEightBit(source)) throw new Error('8 bits')
    const sampler = createSampler(kernels, source)
    const small = areaCopy(kernels, source, sampler.copy([]).size)
    for (const count of [1, 2, 3]) {
      const plan = planRender(small, steps.slice(0, count), 'preview')
      expect(bytesOf(sampler.copy(steps.slice(0, count)))).toBe(bytesOf(renderFrame(kernels, plan, 'linear')))
    }
  })
  it('is the same object when it is asked for again, and where a step does nothing', async () => {
    const { kernels, steps } = await resolved()
    const sampler = createSampler(kernels, source)
    const copy = sampler.copy(steps)
    expect(sampler.copy([...steps])).toBe(copy)
    const idle = resolveSteps([newStep('exposure', 'idle', { exposureEv: 0 })], source.size)
    expect(sampler.copy([...steps, ...idle])).toBe(copy)
  })
})
