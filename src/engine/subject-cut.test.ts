import { describe, expect, it } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import type { LinearPicture } from '@/pixels/linear-picture'
import { testKernels } from '../../tests/kernels'
import { resolveSteps } from './resolve'
import { subjectCutPercent } from './subject-cut'

const kernels = await testKernels()
const full = { width: 2048, height: 1024 }

/** A small copy of a grey ground with a red square on it, placed by shares of the width. */
function picture(from: number, to: number): LinearPicture {
  const [width, height] = [512, 256]
  const planes = new Float32Array(3 * width * height).fill(0.4)
  for (let y = 78; y < 178; y++)
    for (let x = Math.round(from * width); x < Math.round(to * width); x++)
      for (const [channel, value] of [0.5, 0.02, 0.02].entries()) planes[(channel * height + y) * width + x] = value
  return { size: { width, height }, planes, kernels }
}

/** Keeps the left part, in per cent of the width. */
const left = (percent: number): Step => newStep('crop', 'c', { shape: 'margins', rightPercent: 100 - percent })
const cut = async (copy: LinearPicture, steps: readonly Step[]): Promise<number> =>
  subjectCutPercent(kernels, () => copy, full, resolveSteps(steps, full))

describe('what a frame cuts off the subject', () => {
  // The subject lies from 40 % to 60 % of the width: a frame that ends at 50 % leaves half of it outside, and so on.
  const middle = picture(0.4, 0.6)
  it.each([
    [100, 0],
    [70, 0],
    [50, 50],
    [45, 75],
    [30, 100],
  ])('a frame of the left %d %% cuts off %d %%, as counted by hand', async (kept, expected) => {
    expect(Math.abs((await cut(middle, [left(kept)])) - expected)).toBeLessThan(4)
  })
  it('is the same after a resize, before one, turned, and with a border around it', async () => {
    const [resize, turn, pad] = [
      newStep('resize', 'r', { by: 'longEdge', lengthPx: 500 }),
      newStep('turn-mirror', 't', { turn: 'right' }),
      newStep('pad', 'p'),
    ]
    const alone = await cut(middle, [left(50)])
    for (const steps of [
      [resize, left(50)],
      [left(50), resize],
      [left(50), turn],
      [left(50), pad],
    ])
      expect(Math.abs((await cut(middle, steps)) - alone)).toBeLessThan(2.5)
  })
  it('is nothing where nothing is cut, and where there is no subject', async () => {
    expect(await cut(middle, [newStep('exposure', 'e', { exposureEv: 1 })])).toBe(0)
    expect(await cut(picture(0, 0), [left(50)])).toBe(0)
  })
})
