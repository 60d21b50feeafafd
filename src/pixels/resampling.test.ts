import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { resamplingKernels, weightTable } from './resampling'

const kernels = Object.values(resamplingKernels)

describe.each(kernels)('$name', (kernel) => {
  it('gives weights that sum to one everywhere, whatever the lengths', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 1, max: 400 }), (input, output) => {
        const { taps, starts, weights } = weightTable(kernel, input, output)
        expect(starts.length).toBe(output)
        for (let i = 0; i < output; i++) {
          const sum = weights.subarray(i * taps, (i + 1) * taps).reduce((total, weight) => total + weight, 0)
          expect(sum).toBeCloseTo(1, 5)
        }
      }),
    )
  })
  it('has as many taps as some output needs, and surroundings within them', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 1, max: 400 }), (input, output) => {
        const { taps, starts, weights, surroundings } = weightTable(kernel, input, output)
        expect(taps).toBeLessThanOrEqual(Math.ceil(2 * kernel.radius * Math.max(1, input / output)) + 1)
        expect(Array.from(starts, (_, i) => weights[i * taps + taps - 1]).some((weight) => weight !== 0)).toBe(true)
        for (const from of surroundings?.from ?? []) expect(from + (surroundings?.count ?? 0)).toBeLessThanOrEqual(taps)
      }),
    )
  })
  it('is even and vanishes beyond its radius', () => {
    for (const x of [0.1, 0.7, 1.3, 2.2]) expect(kernel.weight(x)).toBeCloseTo(kernel.weight(-x), 12)
    expect(kernel.weight(kernel.radius + 0.001)).toBe(0)
  })
  it('leaves samples alone when nothing changes in length', () => {
    if (kernel.id === 'mitchell') return
    const { taps, starts, weights } = weightTable(kernel, 9, 9)
    for (let i = 0; i < 9; i++) expect(weights[i * taps + i - (starts[i] as number)]).toBeCloseTo(1, 6)
  })
})

describe('known values', () => {
  it('Lanczos-3 is sinc(x)·sinc(x/3): ½ gives 0.60793 (from the formula, by hand)', () => {
    expect(resamplingKernels.lanczos3.weight(0.5)).toBeCloseTo(
      (Math.sin(Math.PI / 2) / (Math.PI / 2)) * (Math.sin(Math.PI / 6) / (Math.PI / 6)),
      12,
    )
    expect(resamplingKernels.lanczos3.weight(0.5)).toBeCloseTo(0.60793, 5)
  })
  it('Mitchell is 8/9 at 0 and 1/18 at 1 (Mitchell & Netravali 1988, B = C = 1/3)', () => {
    expect(resamplingKernels.mitchell.weight(0)).toBeCloseTo(8 / 9, 12)
    expect(resamplingKernels.mitchell.weight(1)).toBeCloseTo(1 / 18, 12)
  })
  it('Catmull-Rom interpolates: 1 at 0, 0 at whole numbers', () => {
    expect([0, 1, 2].map(resamplingKernels.catmullRom.weight)).toEqual([1, 0, 0])
  })
  it('reducing by two widens the area filter to two whole samples', () => {
    const { starts, weights, taps } = weightTable(resamplingKernels.area, 8, 4)
    expect([...starts]).toEqual([0, 2, 4, 6])
    expect([...weights.subarray(0, taps)]).toEqual([0.5, 0.5])
  })
})
