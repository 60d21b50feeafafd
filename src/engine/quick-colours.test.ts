import { describe, expect, it } from 'vitest'
import { newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture, paint, seeded } from '../../tests/pictures'
import { planRender } from './plan'
import { drawQuickly, inPalette, isByColourAlone } from './quick-colours'
import { renderEncoded, renderFrame, renderProxy } from './render'
import { resolveSteps } from './resolve'

const source = busyPicture(301, 203)

/** Differences in codes between the palette's picture and the true one, smallest first. */
async function differences(steps: readonly Step[], before: readonly Step[] = []): Promise<number[]> {
  const kernels = await testKernels()
  const resolved = resolveSteps([...before, ...steps], source.size)
  const frame = renderProxy(kernels, source, 1)
  const [earlier, later] = [resolved.slice(0, before.length), resolved.slice(before.length)]
  const kept = earlier.length > 0 ? renderFrame(kernels, planRender(frame, earlier, 'preview')) : frame
  const exact = renderEncoded(kernels, planRender(kept, later, 'preview'), { space: 'srgb', channels: 4, dither: false })
  const quick = drawQuickly(kernels, inPalette(kernels, kept), later)
  expect(quick.length).toBe(exact.length)
  return Array.from(exact, (code, i) => Math.abs(code - (quick[i] as number))).sort((a, b) => a - b)
}

describe('a picture in a palette of its own', () => {
  it.each([
    ['nothing', []],
    ['exposure with a shoulder', [newStep('exposure', 'a', { exposureEv: 0.8, shoulderPercent: 30 })]],
    ['colour', [newStep('vibrance', 'a', { vibrancePercent: 40 }), newStep('saturation', 'b', { saturationPercent: 20 })]],
    ['a share of lightness alone', [{ ...newStep('exposure', 'a', { exposureEv: 1 }), strength: 0.5, blend: 'lightness' as const }]],
    [
      'a steep curve',
      [
        newStep('curve', 'a', {
          all: [
            [0, 0],
            [64, 40],
            [192, 215],
            [255, 255],
          ],
        }),
      ],
    ],
  ])('comes near the true one: %s', async (_, steps) => {
    const sorted = await differences(steps)
    expect(sorted.reduce((sum, d) => sum + d, 0) / sorted.length).toBeLessThan(1.2)
    expect(sorted[Math.floor(sorted.length * 0.99)]).toBeLessThanOrEqual(5)
  })
  it('knows lights that steps before have raised above white', async () => {
    const sorted = await differences([newStep('exposure', 'b', { exposureEv: -1 })], [newStep('exposure', 'a', { exposureEv: 0.4 })])
    expect(sorted[Math.floor(sorted.length * 0.99)]).toBeLessThanOrEqual(3)
  })
  it('is opaque, and only offered where place and neighbours do not matter', async () => {
    const kernels = await testKernels()
    const frame = renderProxy(kernels, source, 1)
    const pixels = drawQuickly(kernels, inPalette(kernels, frame), [])
    expect(pixels.every((code, i) => i % 4 !== 3 || code === 255)).toBe(true)
    const isAlone = (...steps: readonly Step[]) => isByColourAlone(planRender(frame, resolveSteps(steps, source.size), 'preview'))
    const exposure = newStep('exposure', 'a', { exposureEv: 1 })
    expect(isAlone(exposure, newStep('monochrome', 'm'))).toBe(true)
    // Enlarging only makes the same pixels stand for more.
    expect(isAlone(exposure, newStep('resize', 'r', { by: 'longEdge', lengthPx: 2000 }))).toBe(true)
    expect(isAlone(exposure, newStep('unsharp-mask', 'u', { amountPercent: 50 }))).toBe(false)
    expect(isAlone(exposure, newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }))).toBe(false)
    expect(isAlone({ ...exposure, limit: [newLimit('tone')] })).toBe(false)
  })
  it('tells every pixel by a colour near its own, in no more colours than it says, also of a picture of all colours', async () => {
    const kernels = await testKernels()
    const random = seeded(5)
    const wild = paint(400, 300, () => [random() * 255, random() * 255, random() * 255])
    const frame = renderProxy(kernels, wild, 1)
    const { pixels, colours, size } = inPalette(kernels, frame)
    expect(size).toEqual(wild.size)
    expect(colours.size.width).toBeLessThanOrEqual(40 ** 3)
    expect(new Set(pixels).size).toBe(colours.size.width)
    const drawn = drawQuickly(kernels, { pixels, colours, size }, [])
    // A step of the coarsest levels is 8 codes of the range that is told; the ends of the scale fall between levels too.
    let [worst, sum] = [0, 0]
    for (let i = 0; i < wild.pixels.length; i++) {
      const difference = (wild.pixels[i] as number) - (drawn[Math.floor(i / 3) * 4 + (i % 3)] as number)
      worst = Math.max(worst, Math.abs(difference))
      sum += difference
    }
    expect(worst).toBeLessThanOrEqual(9)
    expect(Math.abs(sum / wild.pixels.length)).toBeLessThan(0.25)
  })
  it('keeps the mean of what lies between two levels', async () => {
    const kernels = await testKernels()
    for (const grey of [37, 100, 201]) {
      const flat = renderProxy(
        kernels,
        paint(64, 64, () => [grey, grey, grey]),
        1,
      )
      const drawn = drawQuickly(kernels, inPalette(kernels, flat), [])
      expect(drawn.reduce((sum, code, i) => sum + (i % 4 === 0 ? code : 0), 0) / 4096).toBeCloseTo(grey, 0)
    }
  })
})
