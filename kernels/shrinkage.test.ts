import { describe, expect, it } from 'vitest'
import { floatAt, numberAt } from '@/base/numbers'
import { testKernels } from '../tests/kernels'
import { normals, seeded } from '../tests/pictures'

/** Wider than what the kernel works on at a time. */
const [width, height] = [568, 40]

/** Orthonormal 8 × 8 cosine transform by its definition (ITU-T T.81, A.3.3). */
function transform(block: readonly number[], inverse = false): number[] {
  const c = (k: number, x: number): number => (k === 0 ? Math.sqrt(1 / 8) : 0.5) * Math.cos(((2 * x + 1) * k * Math.PI) / 16)
  return Array.from({ length: 64 }, (_, at) => {
    const [p, q] = [at >> 3, at & 7]
    let sum = 0
    for (let i = 0; i < 8; i++)
      for (let j = 0; j < 8; j++) sum += (inverse ? c(i, p) * c(j, q) : c(p, i) * c(q, j)) * (block[i * 8 + j] as number)
    return sum
  })
}

/** Any that is not even. */
const blockWindow = [0.3, 0.5, 0.8, 1, 1, 0.9, 0.7, 0.4]

interface Shrunk {
  readonly step: number
  readonly isStaggered?: boolean
  readonly threshold?: number
  readonly passes?: 1 | 2
}

async function shrink(plane: Float32Array, { step, isStaggered = false, threshold = 0, passes = 1 }: Shrunk): Promise<Float32Array> {
  const { heap, run } = await testKernels()
  return heap.scope(() => {
    const source = heap.floats(plane)
    const [first, second] = [1, 2].map(() => heap.floats(new Float32Array(width * height))) as [number, number]
    const scratch = heap.allocate((width * (isStaggered ? 36 : 9) + 6600) * 4)
    // The first coefficient is the mean: it always stays.
    const thresholds = heap.floats(Float32Array.from({ length: 64 }, (_, i) => (i === 0 ? 0 : threshold * 8)))
    const factors = heap.floats(new Float32Array(17).fill(1))
    const window = heap.floats(blockWindow)
    const [across, down] = [(width - 8) / step + 1, (height - 8) / step + 1]
    const variances = heap.floats(Float32Array.from({ length: 64 }, (_, i) => (i === 0 ? 1e-18 : (threshold * 8) ** 2)))
    if (isStaggered) {
      run.shrinkStaggered(
        source,
        source,
        width,
        first,
        width,
        across,
        down,
        thresholds,
        passes === 2 ? variances : 0,
        factors,
        window,
        scratch,
      )
      return heap.f32(first, width * height).slice()
    }
    run.shrinkBlocks(source, source, width, first, width, across, down, step, thresholds, factors, window, scratch)
    if (passes === 1) return heap.f32(first, width * height).slice()
    run.weighBlocks(source, source, width, first, width, second, width, across, down, step, variances, factors, window, scratch)
    return heap.f32(second, width * height).slice()
  })
}

/** One group about the block at `at`: what is added to sums and weights. `threshold`: the noise's deviation. */
async function group(plane: Float32Array, pilot: Float32Array, { at, reach, threshold }: { at: number; reach: number; threshold: number }) {
  const { heap, run } = await testKernels()
  return heap.scope(() => {
    const [source, guess] = [heap.floats(plane), heap.floats(pilot)]
    const [sums, weights] = [1, 2].map(() => heap.floats(new Float32Array(width * height))) as [number, number]
    const variances = heap.floats(Float32Array.from({ length: 64 }, () => (threshold * 8) ** 2))
    const [factors, window] = [heap.floats(new Float32Array(17).fill(1)), heap.floats(blockWindow)]
    const place = (from: number): number => from + at * 4
    run.shrinkGroups(
      ...([place(source), place(source), width, place(guess), place(sums), place(weights), width, 1, 1, 6] as const),
      ...([reach, 1e3, variances, factors, window] as const),
    )
    return [sums, weights].map((plane) => heap.f32(plane, width * height).slice()) as [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]
  })
}

const anyPlane = (seed: number): Float32Array => {
  const random = seeded(seed)
  return Float32Array.from({ length: width * height }, () => random())
}
const worst = (a: Float32Array, b: Float32Array): number =>
  a.reduce((max, value, i) => Math.max(max, Math.abs(value - (b[i] as number))), 0)

describe('sliding cosine transforms', () => {
  it.each([
    [4, 1, false],
    [2, 1, false],
    [4, 2, false],
    [2, 2, false],
    [4, 1, true],
    [4, 2, true],
  ] as const)('change nothing without a threshold, blocks %d apart, %d pass(es), staggered: %s', async (step, passes, isStaggered) => {
    const plane = anyPlane(step)
    expect(worst(await shrink(plane, { step, passes, isStaggered }), plane)).toBeLessThan(2e-6)
  })
  it('staggered, are the mean of two tilings, each block by what it needs and by where in it a pixel lies', async () => {
    const plane = anyPlane(5)
    const threshold = 0.35
    const result = await shrink(plane, { step: 4, isStaggered: true, threshold })
    /** What a block that begins here becomes, and its weight. */
    const blockAt = (x: number, y: number) => {
      const coefficients = transform(Array.from({ length: 64 }, (_, i) => plane[(y + (i >> 3)) * width + x + (i & 7)] as number))
      const kept = coefficients.map((value, i) => (i === 0 || Math.abs(value) > threshold ? value : 0))
      return { values: transform(kept, true), weight: 1 / kept.filter((value) => value !== 0).length }
    }
    const windowAt = (x: number, y: number): number => numberAt(blockWindow, x) * numberAt(blockWindow, y)
    const [even, odd] = [blockAt(256, 16), blockAt(252, 12)]
    // The first quarter of the one lies in the last quarter of the other.
    for (let y = 0; y < 4; y++)
      for (let x = 0; x < 4; x++) {
        const [a, b] = [even.values[y * 8 + x] as number, odd.values[(y + 4) * 8 + x + 4] as number]
        const own = even.weight * windowAt(x, y)
        const other = odd.weight * windowAt(x + 4, y + 4)
        const expected = (a * own + b * other) / (own + other)
        expect(result[(16 + y) * width + 256 + x]).toBeCloseTo(expected, 5)
      }
  })
  it('keep and drop the very coefficients that the definition of the transform says', async () => {
    const plane = anyPlane(9)
    const threshold = 0.35
    // With blocks side by side there is no overlap: every block stands for itself.
    const result = await shrink(plane, { step: 8, threshold })
    for (const [bx, by] of [
      [0, 0],
      [2, 1],
      [5, 4],
    ] as const) {
      const at = (i: number): number => (by * 8 + (i >> 3)) * width + bx * 8 + (i & 7)
      const coefficients = transform(Array.from({ length: 64 }, (_, i) => plane[at(i)] as number))
      const kept = coefficients.map((value, i) => (i === 0 || Math.abs(value) > threshold ? value : 0))
      transform(kept, true).forEach((value, i) => {
        expect(result[at(i)]).toBeCloseTo(value, 5)
      })
    }
  })
  it('take eight blocks that are alike together, as the definitions say', async () => {
    const [plane, pilot] = [anyPlane(11), anyPlane(12)]
    const [at, reach, threshold] = [16 * width + 200, 2, 0.4]
    const blockOf = (from: Float32Array, start: number): number[] =>
      Array.from({ length: 64 }, (_, i) => floatAt(from, start + (i >> 3) * width + (i & 7)))
    const own = blockOf(pilot, at)
    const around = Array.from({ length: 25 }, (_, i) => at + (Math.floor(i / 5) - reach) * width + (i % 5) - reach)
    const unlike = (start: number): number => blockOf(pilot, start).reduce((sum, value, i) => sum + (value - numberAt(own, i)) ** 2, 0)
    const places = around.toSorted((a, b) => unlike(a) - unlike(b)).slice(0, 8)
    // Hadamard's matrix of eight, orthonormal: the sign is the parity of the bits that row and column share.
    const sign = (row: number, column: number): number => ([0, 1, 1, 0, 1, 0, 0, 1][row & column] ? -1 : 1) / Math.sqrt(8)
    const across = (blocks: readonly number[][]): number[][] =>
      blocks.map((_, row) => own.map((_, i) => blocks.reduce((sum, block, column) => sum + sign(row, column) * numberAt(block, i), 0)))
    const spectra = (from: Float32Array): number[][] => across(places.map((start) => transform(blockOf(from, start))))
    const gains = spectra(pilot).map((block) => block.map((value) => value ** 2 / (value ** 2 + threshold ** 2)))
    const shrunk = spectra(plane).map((block, k) => block.map((value, i) => value * numberAt(gains[k] as number[], i)))
    const weight = 1 / gains.flat().reduce((sum, gain) => sum + gain ** 2, 0)
    const [sums, weights] = [0, 1].map(() => Array<number>(width * height).fill(0)) as [number[], number[]]
    for (const [k, block] of across(shrunk).entries())
      for (const [i, value] of transform(block, true).entries()) {
        const place = numberAt(places, k) + (i >> 3) * width + (i & 7)
        const counts = weight * numberAt(blockWindow, i >> 3) * numberAt(blockWindow, i & 7)
        sums[place] = numberAt(sums, place) + value * counts
        weights[place] = numberAt(weights, place) + counts
      }
    const [found, counted] = await group(plane, pilot, { at, reach, threshold })
    for (let i = 0; i < width * height; i++) {
      expect(found[i]).toBeCloseTo(numberAt(sums, i), 6)
      expect(counted[i]).toBeCloseTo(numberAt(weights, i), 6)
    }
  })
  it('take most of white noise from a flat plane, more in two passes, and keep its mean', async () => {
    const normal = normals(4)
    const sigma = 0.05
    const plane = Float32Array.from({ length: width * height }, () => 0.5 + sigma * normal())
    const spread = (values: Float32Array) => Math.sqrt(values.reduce((sum, value) => sum + (value - 0.5) ** 2, 0) / values.length)
    const [memoised, twice] = [
      await shrink(plane, { step: 4, threshold: 2.7 * sigma }),
      await shrink(plane, { step: 4, threshold: 2.7 * sigma, passes: 2 }),
    ]
    expect(spread(memoised)).toBeLessThan(0.35 * spread(plane))
    expect(spread(twice)).toBeLessThan(0.35 * spread(plane))
    const mean = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length
    expect(mean(memoised)).toBeCloseTo(mean(plane), 3)
  })
  it('halving a plane keeps a ramp', async () => {
    const { heap, run } = await testKernels()
    heap.scope(() => {
      const at = (x: number, y: number): number => x * 0.01 + y * 0.02
      const source = heap.floats(Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))))
      const [across, down] = [width / 2, height / 2]
      const half = heap.allocate(across * down * 4 + 64)
      run.halvePlane(source, width, half, across, across, down)
      expect(heap.f32(half, across * down)[3 * across + 5]).toBeCloseTo(at(10.5, 6.5), 6)
    })
  })
  it.each([false, true])(
    'a plane takes over the low frequencies of a smaller copy, and keeps its own high ones; in place: %s',
    async (inPlace) => {
      const { heap, run } = await testKernels()
      heap.scope(() => {
        // High frequencies that the averages of 2 × 2 know nothing of; low ones that the smaller copy knows better.
        const fine = (x: number, y: number): number => ((x + y) & 1 ? 0.125 : -0.125)
        const [ramp, wrong] = [(x: number, y: number) => x * 0.01 + y * 0.02, (x: number, y: number) => 0.5 - x * 0.003 + y * 0.001]
        const [across, down] = [width / 2, height / 2]
        const base = heap.floats(
          Float32Array.from({ length: width * height }, (_, i) => {
            const [x, y] = [i % width, Math.floor(i / width)]
            return fine(x, y) + wrong(x, y)
          }),
        )
        const half = heap.floats(
          Float32Array.from({ length: across * down + 16 }, (_, i) => ramp(2 * (i % across) + 0.5, 2 * Math.floor(i / across) + 0.5)),
        )
        const target = inPlace ? base : heap.floats(new Float32Array(width * height))
        const inner = (2 * width + 2) * 4
        const scratch = heap.allocate((width * 1.5 + 24) * 4)
        const size = [width - 12, height - 4] as const
        run.followHalf(half + (across + 1) * 4, across, base + inner, width, target + inner, width, ...size, scratch)
        const result = heap.f32(target, width * height)
        for (let y = 2; y < height - 2; y++)
          for (let x = 2; x < width - 10; x++) expect(result[y * width + x]).toBeCloseTo(ramp(x, y) + fine(x, y), 5)
      })
    },
  )
})
