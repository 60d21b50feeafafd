import { describe, expect, it } from 'vitest'
import { acrossLocus, daylight, planckian, whiteOfTemperature } from './light'

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
