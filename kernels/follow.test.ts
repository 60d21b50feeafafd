import { describe, expect, it } from 'vitest'
import { testKernels } from '../tests/kernels'
import { seeded } from '../tests/pictures'

const [width, height] = [44, 24]
const [across, down] = [width / 2, height / 2]

const anyPlane = (seed: number): Float32Array => {
  const random = seeded(seed)
  return Float32Array.from({ length: width * height }, () => random())
}
const four = (at: number): number[] => {
  const [x, y] = [at % across, Math.floor(at / across)]
  return [0, 1, width, width + 1].map((step) => 2 * y * width + 2 * x + step)
}
const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length
/** As planes are: with a little behind. */
const plane = (heap: Awaited<ReturnType<typeof testKernels>>['heap'], values: ArrayLike<number>): number =>
  heap.floats(Float32Array.from([...Array.from(values), ...new Array<number>(16).fill(0)]))

describe('colour that follows brightness', () => {
  it('means of products, and halves with what halving loses, are what they say', async () => {
    const { heap, run } = await testKernels()
    heap.scope(() => {
      const [a, b] = [anyPlane(1), anyPlane(2)]
      const [first, second] = [plane(heap, a), plane(heap, b)]
      const [products, half, lost] = [1, 2, 3].map(() => plane(heap, new Float32Array(across * down))) as [number, number, number]
      run.meanProducts(first, width, second, width, products, across, across, down)
      run.halveAndLose(first, width, half, lost, across, across, down)
      for (let at = 0; at < across * down; at++) {
        const values = four(at).map((i) => a[i] as number)
        expect(heap.f32(products, across * down)[at]).toBeCloseTo(mean(four(at).map((i) => (a[i] as number) * (b[i] as number))), 6)
        expect(heap.f32(half, across * down)[at]).toBeCloseTo(mean(values), 6)
        const middle = mean(values)
        expect(heap.f32(lost, across * down)[at]).toBeCloseTo(mean(values.map((value) => (value - middle) ** 2)), 6)
      }
    })
  })
  it('a doubled plane keeps a ramp', async () => {
    const { heap, run } = await testKernels()
    heap.scope(() => {
      const ramp = (x: number, y: number): number => 0.01 * x + 0.02 * y
      const half = plane(
        heap,
        Float32Array.from({ length: across * down }, (_, i) => ramp(2 * (i % across) + 0.5, 2 * Math.floor(i / across) + 0.5)),
      )
      const target = plane(heap, new Float32Array(width * height))
      const [wide, high] = [width - 8, height - 4]
      run.doublePlane(half + (across + 1) * 4, across, target, width, wide, high)
      for (let y = 0; y < high; y++)
        for (let x = 0; x < wide; x++) expect(heap.f32(target, width * height)[y * width + x]).toBeCloseTo(ramp(x + 2, y + 2), 5)
    })
  })

  /** Shares of clean colour, brightness, constant and fine colour, from moments. */
  async function solve(moments: readonly number[], noise: readonly [light: number, colour: number, lost: number]): Promise<number[]> {
    const { heap, run } = await testKernels()
    return heap.scope(() => {
      const from = heap.floats(Float32Array.from(moments.flatMap((value) => [value, value, value, value])))
      const to = heap.floats(new Float32Array(16))
      run.solveFollow(from, to, 16, 4, heap.floats([...noise, 1e-7, 1]), heap.floats(new Float32Array(17).fill(1)))
      const result = heap.f32(to, 16)
      return [0, 4, 8, 12].map((i) => result[i] as number)
    })
  }
  /** Of colour that is a slope times brightness of a variance, and something of its own. */
  const momentsOf = (slope: number, variance: number, own: number, lost: number): number[] => {
    const [light, colour] = [0.5, 0.1]
    return [light, light ** 2 + variance, colour, light * colour + slope * variance, colour ** 2 + slope ** 2 * variance + own, lost, 0.12]
  }
  it('colour that brightness explains up to the noise follows it', async () => {
    const noise = 1e-4
    const [others = 1, follows, constant, fine] = await solve(momentsOf(0.7, 4e-3, noise, 1e-4), [0, noise, 1e-4])
    expect(others).toBeLessThan(0.02)
    expect(follows).toBeCloseTo(0.7, 1)
    // At the mean brightness, the mean of clean colour.
    expect((follows ?? 0) * 0.5 + (constant ?? 0)).toBeCloseTo(0.12 * (1 - others), 5)
    expect(fine).toBeLessThan(0.02)
  })
  it('colour of its own does not, and keeps what stands out of the noise; nor does much colour on little brightness', async () => {
    const noise = 1e-4
    const [others, , , fine] = await solve(momentsOf(0, 4e-3, 40 * noise, 10e-4), [0, noise, 1e-4])
    expect(others).toBeGreaterThan(0.95)
    expect(fine).toBeCloseTo((others ?? 0) * 0.9, 3)
    const [carried] = await solve(momentsOf(6, 4e-3, noise, 1e-4), [noise, noise, 1e-4])
    expect(carried).toBeGreaterThan(0.9)
  })
  it('colour is laid together of its half-size copy, brightness and what is fine', async () => {
    const { heap, run } = await testKernels()
    heap.scope(() => {
      // Shares that are alike everywhere: 0.5 of clean colour, 0.3 of brightness, 0.02 on top, 0.25 of the fine.
      const quarter = (width / 4) * (height / 4)
      const bytes = (quarter + 16) * 4
      const shares = heap.floats(Float32Array.from([0.5, 0.3, 0.02, 0.25].flatMap((value) => new Array<number>(quarter + 16).fill(value))))
      const [light, colour] = [anyPlane(3), anyPlane(4)]
      const [clean, noisy] = [
        plane(heap, new Float32Array(across * down).fill(0.4)),
        plane(heap, new Float32Array(across * down).fill(0.2)),
      ]
      const partBytes = (across * down + 16) * 4
      const parts = heap.floats(new Float32Array(3 * (across * down + 16) + 16))
      run.shareHalf(
        shares + (width / 4 + 1) * 4,
        width / 4,
        bytes,
        clean,
        across,
        noisy,
        across,
        parts,
        across,
        partBytes,
        across - 4,
        down - 4,
      )
      const target = plane(heap, new Float32Array(width * height))
      const [wide, high] = [width - 16, height - 12]
      const inner = (across + 1) * 4
      run.layColour(parts + inner, across, partBytes, plane(heap, light), width, plane(heap, colour), width, target, width, wide, high)
      for (let y = 0; y < high; y++)
        for (let x = 0; x < wide; x++) {
          const at = y * width + x
          const wanted = 0.5 * 0.4 + 0.02 + 0.3 * (light[at] as number) + 0.25 * ((colour[at] as number) - 0.2)
          expect(heap.f32(target, width * height)[at]).toBeCloseTo(wanted, 5)
        }
    })
  })
})
