import { describe, expect, it } from 'vitest'
import { linesBeside, slantedEdge } from './edge'
import { greyPicture, seeded } from './pictures'
import { renderOne } from './render'

/* What shows beside edges and in fine structure at 100 %, in codes of 8 bits. */

describe('lines beside edges', () => {
  // The hardest edge there is, and one as a good lens draws it.
  for (const sigma of [0.01, 1.2])
    for (const ratio of [2, 3, 5.3])
      it(`are held back when an edge of ${sigma} px is reduced by ${ratio}, on both sides`, async () => {
        const source = slantedEdge(360, 240, sigma)
        const length = Math.round(360 / ratio)
        const resized = linesBeside((await renderOne(source, 'resize', { by: 'width', lengthPx: length })).pixels, source.pixels)
        expect(Math.max(resized.over, resized.under)).toBeLessThanOrEqual(5)
        const crisp = linesBeside((await renderOne(source, 'sharpen-for-size', { longEdgePx: length })).pixels, source.pixels)
        expect(Math.max(crisp.over, crisp.under)).toBeLessThanOrEqual(10)
      })
})

describe('rims of local contrast', () => {
  const unguarded = { highlightGuardPercent: 0, shadowGuardPercent: 0, skinGuardPercent: 0 }
  it.each([
    [80, 180],
    [60, 220],
    [110, 150],
    [114, 142],
    [118, 138],
  ])('are not seen along a step from %d to %d', async (dark, bright) => {
    const step = greyPicture(512, 96, (x) => (x < 256 ? dark : bright))
    for (const [amountPercent, most] of [
      [50, 4],
      [100, 8],
    ] as const) {
      const { over, under } = linesBeside((await renderOne(step, 'local-contrast', { amountPercent, ...unguarded })).pixels, step.pixels)
      expect(Math.max(over, under)).toBeLessThanOrEqual(most)
    }
  })
  it('are not held back at the cost of fine drawing', async () => {
    const drawn = greyPicture(512, 96, (x, y) => 120 + 10 * Math.sin(x / 2.2) * Math.sin(y / 2.2))
    const { over, under } = linesBeside(
      (await renderOne(drawn, 'local-contrast', { amountPercent: 100, ...unguarded })).pixels,
      drawn.pixels,
    )
    expect(Math.min(over, under)).toBeGreaterThan(8)
  })
})

describe('equalised locally', () => {
  // A backdrop that is lit a little unevenly, and something drawn in front of it.
  const scene = greyPicture(360, 240, (x, y) =>
    Math.hypot(x - 100, y - 120) < 60 ? 90 + 50 * Math.sin(x / 4) * Math.sin(y / 5) : 176 + 8 * (x / 360),
  )
  const rangeOf = (pixels: ArrayLike<number>, x0: number, x1: number): number => {
    const row = Array.from({ length: x1 - x0 }, (_, i) => pixels[(120 * 360 + x0 + i) * 3] ?? 0)
    return Math.max(...row) - Math.min(...row)
  }
  it('a plain backdrop stays plain, and what is drawn gains', async () => {
    const { pixels } = await renderOne(scene, 'equalise-locally', {})
    expect(rangeOf(pixels, 250, 360)).toBeLessThanOrEqual(rangeOf(scene.pixels, 250, 360) + 1)
    expect(rangeOf(pixels, 70, 130)).toBeGreaterThan(rangeOf(scene.pixels, 70, 130) * 1.15)
    const first = await renderOne(scene, 'equalise-locally', { edition: 'first' })
    expect(rangeOf(first.pixels, 250, 360)).toBeGreaterThan(rangeOf(pixels, 250, 360))
  })
})

describe('an unsharp mask at its default', () => {
  const deviationOf = (pixels: ArrayLike<number>): number => {
    const values = Array.from(pixels)
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length
    return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length)
  }
  it('is seen on fine structure of a good lens: stripes of five pixels gain a quarter', async () => {
    const stripes = greyPicture(120, 60, (x) => 120 + 16 * Math.sin((2 * Math.PI * x) / 5))
    const { pixels } = await renderOne(stripes, 'unsharp-mask', {})
    expect(deviationOf(pixels) / deviationOf(stripes.pixels)).toBeGreaterThan(1.25)
  })
  it('hardly lifts the noise of a clean picture', async () => {
    const random = seeded(11)
    // About 1.2 levels of noise, the sum of four evenly distributed numbers.
    const noisy = greyPicture(120, 120, () => 118 + (random() + random() + random() + random() - 2) * 2.1)
    const { pixels } = await renderOne(noisy, 'unsharp-mask', {})
    expect(deviationOf(pixels) / deviationOf(noisy.pixels)).toBeLessThan(1.1)
  })
})
