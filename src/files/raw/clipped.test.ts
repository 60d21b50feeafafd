import { describe, expect, it } from 'vitest'
import { rebuildClipped } from './clipped'

/** Green ends first, red at two and a half times of that, blue between. */
const ends = [1, 0.4, 0.56] as const

const rebuilt = (...light: readonly [number, number, number]): number[] => {
  // What the sensor makes of light: each channel up to its end.
  const pixels = Uint16Array.from(light, (value, i) => Math.round(Math.min(value, ends[i] ?? 1) * 65535))
  rebuildClipped(pixels, ends)
  return Array.from(pixels, (code) => code / 65535)
}

describe('what is cut off in some channels', () => {
  it.each([0.1, 0.3, 0.36])('nothing of grey at %f, which no channel cuts off', (light) => {
    for (const value of rebuilt(light, light, light)) expect(value).toBeCloseTo(light, 4)
  })
  it.each([0.45, 0.5, 0.7, 0.9, 1, 1.5, 4])('grey of %f stays grey', (light) => {
    const [r = 0, g = 0, b = 0] = rebuilt(light, light, light)
    // Magenta would be green far below the others.
    expect(Math.max(r, g, b) / Math.min(r, g, b)).toBeLessThan(1.06)
    expect(Math.min(r, g, b)).toBeGreaterThan(Math.min(light, 1) * 0.93)
  })
  it('rises with the light, without a step', () => {
    const greens = Array.from({ length: 300 }, (_, i) => rebuilt(i / 200, i / 200, i / 200)[1] ?? 0)
    for (const [i, green] of greens.entries()) {
      if (i === 0) continue
      expect(green - (greens[i - 1] ?? 0)).toBeGreaterThan(-0.002)
      expect(green - (greens[i - 1] ?? 0)).toBeLessThan(0.03)
    }
  })
  it('a strong colour with one channel at its end keeps its others', () => {
    const [r, g, b] = rebuilt(1.3, 0.1, 0.05)
    expect(r).toBe(1)
    expect(g).toBeCloseTo(0.1, 3)
    expect(b).toBeCloseTo(0.05, 3)
  })
})
