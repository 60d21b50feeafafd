import { describe, expect, it } from 'vitest'
import { leastChromaKept, thereAndBack } from './casts'
import { testKernels } from './kernels'
import { paint } from './pictures'
import { renderOne } from './render'

/*
 * White balance against the very inverse of a cast that was computed in double precision, Bradford adaptation after ICC.1:2022 annex E:
 * what the cast did not cut off must come back. Goals: mean ΔE00 ≤ 1, no hue turned by more than 5°.
 */
describe('a picture put into another light and back', () => {
  // Kiln glow, coloured glazes, white ground, the chart, lamplight.
  const pictures = ['kiln-and-yard/TLK27_0405.jpg', 'kiln-and-yard/TLK27_0408.jpg', 'vessels/TLK27_0415.jpg', 'vessels/TLK27_0421.jpg']
  it.each(pictures)('%s is what it was', async (name) => {
    const kernels = await testKernels()
    for (const temperatureK of [3200, 4500, 9000]) {
      const { apart, turned, greyedPercent } = await thereAndBack(kernels, `demo/pictures/${name}`, temperatureK)
      expect(apart).toBeLessThan(0.5)
      expect(turned).toBeLessThan(5)
      expect(greyedPercent).toBe(0)
    }
  })
  it('keeps the colour of fully saturated colours, two thousand kelvin either way', async () => {
    const kernels = await testKernels()
    for (const temperatureK of [4500, 8500]) expect(leastChromaKept(kernels, temperatureK)).toBeGreaterThan(0.3)
    expect(leastChromaKept(kernels, 6400)).toBeGreaterThan(0.75)
  })
  it('leaves what is cut off in all channels white, in any light', async () => {
    for (const temperatureK of [2500, 4000, 6400, 12000]) {
      const { pixels } = await renderOne(
        paint(8, 8, () => [255, 255, 255]),
        'white-balance',
        { temperatureK },
      )
      expect(new Set(pixels)).toEqual(new Set([255]))
    }
  })
  it('does not let a white that is cut off in two channels turn to their complement', async () => {
    // Lamplight on white: red and green are at their end, blue is not. Taken away alone, red would be less than green.
    const { pixels } = await renderOne(
      paint(8, 8, () => [255, 255, 225]),
      'white-balance',
      { temperatureK: 4600 },
    )
    const [r = 0, g = 0, b = 0] = pixels
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(30)
    expect(r).toBeGreaterThanOrEqual(g - 1)
  })
})
