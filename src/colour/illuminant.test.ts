import { describe, expect, it } from 'vitest'
import { acrossLocus, daylight, fromLocus, planckian, whiteOfTemperature } from './illuminant'

describe('daylight (CIE 15:2018, table of D illuminants)', () => {
  it.each([
    [5003, 0.3457, 0.3585],
    [5503, 0.3324, 0.3474],
    [6504, 0.3127, 0.329],
    [7504, 0.299, 0.3149],
  ])('of %i K is %d, %d', (temperatureK, x, y) => {
    expect(daylight(temperatureK)[0]).toBeCloseTo(x, 3)
    expect(daylight(temperatureK)[1]).toBeCloseTo(y, 3)
  })
})

describe('the Planckian locus', () => {
  it('at 2856 K is CIE illuminant A: 0.44757, 0.40745 (CIE 15:2018)', () => {
    expect(planckian(2856)[0]).toBeCloseTo(0.44757, 2)
    expect(planckian(2856)[1]).toBeCloseTo(0.40745, 2)
  })
})

describe('the white of a temperature', () => {
  it('has no jump anywhere', () => {
    for (let temperatureK = 2050; temperatureK <= 25_000; temperatureK += 50) {
      const [before, after] = [whiteOfTemperature(temperatureK - 50), whiteOfTemperature(temperatureK)]
      expect(Math.hypot(after[0] - before[0], after[1] - before[1])).toBeLessThan(0.008)
    }
  })
  it('gets greener across the locus with a positive step, and back', () => {
    const white = whiteOfTemperature(6500)
    expect(acrossLocus(white, 0.02)[1]).toBeGreaterThan(white[1])
    const back = acrossLocus(acrossLocus(white, 0.02), -0.02)
    expect(back[0]).toBeCloseTo(white[0], 9)
    expect(back[1]).toBeCloseTo(white[1], 9)
  })
})

describe('the distance from the locus', () => {
  it('is nothing on it, at any temperature, and for D65', () => {
    for (const temperatureK of [2000, 2345, 2856, 3333, 4321, 5555, 6504, 9000, 18_000, 25_000])
      expect(fromLocus(whiteOfTemperature(temperatureK))).toBeLessThan(2e-5)
    expect(fromLocus([0.3127, 0.329])).toBeLessThan(1e-4)
  })
  it('is what a lamp was moved by, to either side', () => {
    for (const duv of [-0.02, -0.006, 0.003, 0.02])
      expect(fromLocus(acrossLocus(whiteOfTemperature(2400), duv))).toBeCloseTo(Math.abs(duv), 3)
  })
  it('is small for fluorescent lamps and large for what is no white: F2 and F4 of CIE 15:2018, and the green of sRGB', () => {
    expect(fromLocus([0.3721, 0.3751])).toBeLessThan(0.006)
    expect(fromLocus([0.4402, 0.4031])).toBeLessThan(0.006)
    expect(fromLocus([0.3, 0.6])).toBeGreaterThan(0.05)
  })
})
