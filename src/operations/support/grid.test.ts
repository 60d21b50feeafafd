import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Size } from '@/base/geometry'
import { testKernels } from '../../../tests/kernels'
import { seeded } from '../../../tests/pictures'
import { worstDifference } from '../../../tests/render'
import { boxMean, gridRadius, guidedCoefficients } from './grid'

const kernels = await testKernels()

const anyPlane = ({ width, height }: Size, seed: number): Float32Array => {
  const random = seeded(seed)
  return Float32Array.from({ length: width * height }, () => random())
}

/** Means over what there is of a window, by their definition. */
const meanOf = (plane: Float32Array, { width, height }: Size, radius: number): Float32Array =>
  plane.map((_, at) => {
    const [cx, cy] = [at % width, Math.floor(at / width)]
    let [sum, count] = [0, 0]
    for (let y = Math.max(0, cy - radius); y <= Math.min(height - 1, cy + radius); y++)
      for (let x = Math.max(0, cx - radius); x <= Math.min(width - 1, cx + radius); x++) {
        sum += plane[y * width + x] as number
        count++
      }
    return sum / count
  })

describe('means over windows', () => {
  it('are those of the definition, in any picture, also where the window is larger than it', () => {
    const sizes = fc.record({ width: fc.integer({ min: 1, max: 23 }), height: fc.integer({ min: 1, max: 17 }) })
    fc.assert(
      fc.property(sizes, fc.integer({ min: 1, max: 30 }), fc.nat(999), (size, radius, seed) => {
        const plane = anyPlane(size, seed)
        expect(worstDifference(boxMean(kernels, plane, size, radius), meanOf(plane, size, radius))).toBeLessThan(1e-6)
      }),
    )
  })
})

describe('the coefficients of a guided filter (He, Sun & Tang 2010)', () => {
  const size = { width: 19, height: 13 }
  const [radius, epsilon] = [2, 0.01]

  it('are those of equations 5, 6 and 8, for a picture that guides itself and for one that is guided', () => {
    for (const seeds of [
      [3, 3],
      [3, 8],
    ] as const) {
      const [guide, input] = [anyPlane(size, seeds[0]), anyPlane(size, seeds[1])]
      const mean = (plane: Float32Array): Float32Array => meanOf(plane, size, radius)
      const [mu, p, corr, square] = [
        mean(guide),
        mean(input),
        mean(guide.map((g, i) => g * (input[i] as number))),
        mean(guide.map((g) => g * g)),
      ]
      const a = corr.map(
        (value, i) => (value - (mu[i] as number) * (p[i] as number)) / ((square[i] as number) - (mu[i] as number) ** 2 + epsilon),
      )
      const b = p.map((value, i) => value - (a[i] as number) * (mu[i] as number))
      const given = guidedCoefficients(kernels, guide, seeds[0] === seeds[1] ? guide : input, size, { radius, epsilon })
      expect(worstDifference(given.planes[0] as Float32Array, mean(a))).toBeLessThan(1e-5)
      expect(worstDifference(given.planes[1] as Float32Array, mean(b))).toBeLessThan(1e-5)
    }
  })
  it('leave an edge much higher than √epsilon as it is, and flatten what is far lower', () => {
    const [low, high] = [0.01, 0.8]
    const step = Float32Array.from({ length: size.width * size.height }, (_, i) => (i % size.width < 9 ? 0 : high) + (i & 1) * low)
    const { planes } = guidedCoefficients(kernels, step, step, size, { radius, epsilon })
    const smooth = step.map((value, i) => (planes[0]?.[i] as number) * value + (planes[1]?.[i] as number))
    const row = 6 * size.width
    expect((smooth[row + 9] as number) - (smooth[row + 8] as number)).toBeGreaterThan(0.9 * high)
    expect(Math.abs((smooth[row + 3] as number) - (smooth[row + 2] as number))).toBeLessThan(0.2 * low)
  })
  it('take their radius from the long edge, one cell at least', () => {
    expect(gridRadius({ width: 512, height: 341 }, 0.015)).toBe(8)
    expect(gridRadius({ width: 341, height: 512 }, 0.015)).toBe(8)
    expect(gridRadius({ width: 20, height: 12 }, 0.015)).toBe(1)
  })
})
