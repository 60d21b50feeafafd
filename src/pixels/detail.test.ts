import { describe, expect, it } from 'vitest'
import { testKernels } from '../../tests/kernels'
import { normals } from '../../tests/pictures'
import { detailOf } from './detail'

const kernels = await testKernels()
const size = { width: 640, height: 480 }

/** Codes of a grey picture by place, three alike to a pixel. */
function codes(of: (x: number, y: number) => number) {
  const values = new Uint8Array(3 * size.width * size.height)
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++)
      values.fill(Math.min(255, Math.max(0, Math.round(of(x, y)))), 3 * (y * size.width + x), 3 * (y * size.width + x) + 3)
  return { size, values, channels: 3 }
}

/** Bars whose edges rise over so many pixels: of such an edge 100 ÷ width per cent lie within one. */
const bars = (width: number) =>
  codes((x) => {
    const place = x % 80
    const rise = (at: number): number => Math.min(1, Math.max(0, (place - at) / width))
    return 60 + 120 * (rise(20) - rise(60))
  })

describe('sharpness', () => {
  it.each([1, 2, 4, 5, 8])('of an edge that rises over %d px is what lies within one', (width) => {
    expect(detailOf(kernels, bars(width)).sharpnessPercent).toBeCloseTo(100 / width, 0)
  })
  it('is not told where there are no edges, or too few pixels', () => {
    expect(
      detailOf(
        kernels,
        codes((x) => x / 4),
      ).sharpnessPercent,
    ).toBeUndefined()
    expect(detailOf(kernels, { size: { width: 40, height: 40 }, values: new Uint8Array(4800), channels: 3 })).toEqual({})
  })
})

describe('noise', () => {
  it.each([1, 3, 8])('white noise of %d levels on a gradient is found within 15 %%', (sigma) => {
    const normal = normals(7)
    const found =
      detailOf(
        kernels,
        codes((x, y) => 80 + x / 8 + y / 16 + sigma * normal()),
      ).noiseLevels ?? 0
    // Rounding to whole levels adds a twelfth of a level squared; the smoothest tenth of the blocks lies a little below the mean.
    expect(found / Math.hypot(sigma, Math.sqrt(1 / 12))).toBeGreaterThan(0.85)
    expect(found / Math.hypot(sigma, Math.sqrt(1 / 12))).toBeLessThan(1.15)
  })
  it('is not told of a picture that is cut off everywhere', () =>
    expect(
      detailOf(
        kernels,
        codes(() => 255),
      ).noiseLevels,
    ).toBeUndefined())
  it('is the same in 16 bits', () => {
    const normal = normals(3)
    const picture = codes(() => 120 + 4 * normal())
    const deep = { ...picture, values: Uint16Array.from(picture.values, (code) => code * 257) }
    expect(detailOf(kernels, deep)).toEqual(detailOf(kernels, picture))
  })
})
