import { describe, expect, it } from 'vitest'
import { rebuildClipped, trueEnd } from './clipped'

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

describe('where the sensor ended', () => {
  /** A ramp of grey that reaches past the end of green, seen by a sensor that ends at a share of what it says. */
  const ramp = (share: number, brightest = 0.8): Uint16Array =>
    Uint16Array.from({ length: 3 * 4000 }, (_, i) =>
      Math.round(Math.min((Math.floor(i / 3) / 3999) * brightest, (ends[i % 3] ?? 1) * share) * 65535),
    )
  it.each([0.8, 0.93, 0.99])('is found at %f of what the file says, and grey stays grey there', (share) => {
    const pixels = ramp(share)
    expect(trueEnd(pixels, ends)).toBeCloseTo(share, 3)
    rebuildClipped(pixels, [ends[0] * share, ends[1] * share, ends[2] * share])
    for (let i = 0; i < pixels.length; i += 3) {
      const [r = 0, g = 0, b = 0] = pixels.subarray(i, i + 3)
      if (r > 1000) expect(Math.max(r, g, b) / Math.min(r, g, b)).toBeLessThan(1.06)
    }
  })
  it('is where the file says, where nothing is piled up below it', () => {
    expect(trueEnd(ramp(1), ends)).toBe(1)
    expect(trueEnd(ramp(1, 0.2), ends)).toBe(1)
    const lone = ramp(1, 0.2)
    lone[1] = Math.round(0.39 * 65535)
    expect(trueEnd(lone, ends)).toBe(1)
  })
})
