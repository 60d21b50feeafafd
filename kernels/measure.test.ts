import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { testKernels } from '../tests/kernels'
import { seeded } from '../tests/pictures'

const { heap, run } = await testKernels()
const random = seeded(16)
const anyFloats = (length: number, scale = 1, offset = 0): Float32Array => Float32Array.from({ length }, () => random() * scale + offset)

describe('numbers in order', () => {
  const anyNumbers = fc.float32Array({ noNaN: true, minLength: 1, maxLength: 200 })
  it('buckets hold what sorting says, negative numbers, zeros and infinities too', () => {
    fc.assert(
      fc.property(anyNumbers, fc.nat(65535), fc.nat(65535), (values, one, other) => {
        const [low, high] = [Math.min(one, other), Math.max(one, other)]
        const bucketOf = (value: number): number => {
          const bits = new Int32Array(Float32Array.of(value).buffer)[0] as number
          return (bits < 0 ? ~bits : bits ^ 0x80000000) >>> 16
        }
        heap.scope(() => {
          const at = heap.floats([...values, 0, 0, 0])
          const [starts, found] = [heap.allocate(65537 * 4), heap.allocate((values.length + 1) * 4)]
          run.countBuckets(at, values.length, starts)
          const below = heap.i32(starts, 65537)
          for (const bucket of [0, low, high, 65536])
            expect(below[bucket]).toBe(values.reduce((sum, value) => sum + (bucketOf(value) < bucket ? 1 : 0), 0))
          const count = run.gatherBuckets(at, values.length, low, high, found)
          const wanted = [...values].filter((value) => bucketOf(value) >= low && bucketOf(value) <= high)
          expect([...heap.f32(found, count)]).toEqual(wanted)
        })
      }),
    )
  })
  it('the one of a rank is what sorting gives, many alike or none', () => {
    fc.assert(
      fc.property(fc.oneof(anyNumbers, fc.array(fc.constantFrom(0, 1, 2), { minLength: 1, maxLength: 90 })), fc.nat(), (values, any) => {
        const rank = any % values.length
        // Both zeros are one number.
        const wanted = (Float32Array.from(values).sort()[rank] as number) + 0
        heap.scope(() => expect(run.floatOfRank(heap.floats(values), values.length, rank) + 0).toBe(wanted))
      }),
    )
  })
  it('pixels that have no channel below a limit are counted, the limit itself with them', () => {
    heap.scope(() => {
      const [r, g, b] = [
        [1, 0.5, 0.9, 1, 0.2],
        [1, 1, 0.9, 0.9, 1],
        [0.9, 1, 1, 0.89, 1],
      ].map((plane) => heap.floats(plane))
      expect(run.countAbove(r as number, g as number, b as number, 5, Math.fround(0.9))).toBe(2)
    })
  })
})

describe('a guided filter’s slopes (He, Sun & Tang 2010, equations 5 and 6)', () => {
  const count = 24
  const [guide, input] = [anyFloats(count, 1, -0.2), anyFloats(count)]
  const [square, product] = [guide.map((g) => g * g + random() * 0.1), guide.map((g, i) => g * (input[i] as number) + random() * 0.1)]
  const epsilon = 0.02
  it.each([0, 1] as const)('are those of the formula, sudden: %d', (sudden) => {
    heap.scope(() => {
      const at = [guide, square, input, product].map((plane) => heap.floats(plane)) as [number, number, number, number]
      const [a, b] = [heap.allocate(count * 4), heap.allocate(count * 4)]
      run.guidedSlopes(...at, a, b, count, epsilon, sudden)
      for (let i = 0; i < count; i++) {
        const [g, p] = [guide[i] as number, input[i] as number]
        const variance = Math.max(0, (square[i] as number) - g * g)
        // The share of the variance, as odds: to the third power where it is sudden.
        const odds = (variance / epsilon) ** (sudden ? 3 : 1)
        const slope = (((product[i] as number) - g * p) / variance) * (odds / (1 + odds))
        expect(heap.f32(a, count)[i]).toBeCloseTo(slope, 5)
        expect(heap.f32(b, count)[i]).toBeCloseTo(p - slope * g, 5)
      }
    })
  })
})

describe('codes reduced', () => {
  it.each([1, 2, 5])('%d rows become one, each channel by its own light, in cells of any width', (rows) => {
    const lights = [2.2, 1, 0.5].map((power) => Float32Array.from({ length: 256 }, (_, code) => (code / 255) ** power))
    const ends = [3, 4, 9, 11, 30]
    const [width, rowBytes] = [30, 90]
    const codes = Uint8Array.from({ length: rows * rowBytes }, () => Math.floor(random() * 256))
    const matrix = [0.5, 0.2, 0.1, 0.1, 1.5, 0.2, 0.3, 0.4, 2]
    heap.scope(() => {
      const at = lights.map((light) => heap.floats(light)) as [number, number, number]
      const [redGreens, blueReds, greenBlues] = [
        [0, 1],
        [2, 0],
        [1, 2],
      ].map(([first = 0, second = 0]) => {
        const table = heap.allocate(65536 * 8)
        run.pairsOf(at[first] as number, at[second] as number, table)
        return table
      }) as [number, number, number]
      const held = heap.allocate(codes.length)
      heap.u8(held, codes.length).set(codes)
      const shares = heap.floats(ends.map((end, i) => 1 / (end - (ends[i - 1] ?? 0))))
      const columns = heap.floats([0, 1, 2].flatMap((column) => [...[0, 1, 2].map((row) => matrix[row * 3 + column] as number), 0]))
      const planes = [0, 1, 2].map(() => heap.allocate(ends.length * 4)) as [number, number, number]
      run.reduceRows8(held, rowBytes, rows, ends.length, heap.integers(ends), shares, redGreens, blueReds, greenBlues, columns, ...planes)
      for (const [cell, end] of ends.entries()) {
        const start = ends[cell - 1] ?? 0
        const means = lights.map((light, channel) => {
          let sum = 0
          for (let y = 0; y < rows; y++)
            for (let x = start; x < end; x++) sum += light[codes[(y * width + x) * 3 + channel] as number] as number
          return sum / rows / (end - start)
        })
        for (const [row, plane] of planes.entries()) {
          const wanted = means.reduce((sum, mean, column) => sum + mean * (matrix[row * 3 + column] as number), 0)
          expect(heap.f32(plane, ends.length)[cell]).toBeCloseTo(wanted, 5)
        }
      }
    })
  })
})

describe('the colours of a light', () => {
  const count = 37
  const planes = [anyFloats(count, 1.1), anyFloats(count, 1.1), anyFloats(count, 1.1)] as const
  const usable = Array.from({ length: count }, (_, i) => i).filter((i) => {
    const pixel = planes.map((plane) => plane[i] as number)
    return Math.min(...pixel) > 0.05 && Math.max(...pixel) < 0.9
  })
  it('are counted by their logarithms, without what is too dark or too bright', () => {
    const scale = 12
    heap.scope(() => {
      const [r, g, b] = planes.map((plane) => heap.floats([...plane, 0, 0, 0])) as [number, number, number]
      const [cells, luminance] = [heap.allocate(count * 4 + 16), heap.allocate(count * 4 + 16)]
      expect(run.lightColours(r, g, b, count, 0.05, 0.9, scale, cells, luminance)).toBe(usable.length)
      for (const [n, i] of usable.entries()) {
        const [red, green, blue] = planes.map((plane) => plane[i] as number) as [number, number, number]
        const [warm, magenta] = [Math.log2(red / blue), Math.log2(red / green) + Math.log2(blue / green)]
        const cell = heap.i32(cells, count)[n] as number
        expect(Math.abs((cell >> 7) - 64 - warm * scale)).toBeLessThan(0.501)
        expect(Math.abs((cell & 127) - 64 - magenta * scale)).toBeLessThan(0.501)
        expect(heap.f32(luminance, count)[n]).toBeCloseTo(0.2627 * red + 0.678 * green + 0.0593 * blue, 5)
      }
      const [all, bright] = [heap.allocate(65536), heap.allocate(65536)]
      run.countColours(cells, luminance, usable.length, 0.4, all, bright)
      const sumOf = (at: number): number => heap.i32(at, 128 * 128).reduce((sum, value) => sum + value, 0)
      expect(sumOf(all)).toBe(usable.length)
      expect(sumOf(bright)).toBe(heap.f32(luminance, usable.length).filter((value) => value >= 0.4).length)
      expect(heap.i32(all, 128 * 128)[heap.i32(cells, 1)[0] as number]).toBeGreaterThan(0)
    })
  })
  it('are scored by what stands at their places in the table', () => {
    const [table, places] = [anyFloats(200, 2, -1), Int32Array.of(-3, 4, 0, 17, 5)]
    const weights = Float64Array.from({ length: 10 }, () => random())
    for (const used of [0, 1, 4, 5])
      heap.scope(() => {
        const score = run.scoreLight(heap.integers(places), heap.doubles(weights), used, heap.floats(table), 40)
        const wanted = [...places.subarray(0, used)].reduce(
          (sum, place, i) =>
            sum +
            (weights[2 * i] as number) * (table[2 * (40 + place)] as number) +
            (weights[2 * i + 1] as number) * (table[2 * (40 + place) + 1] as number),
          0,
        )
        expect(score).toBeCloseTo(wanted, 12)
      })
  })
})

describe('the blocks that noise is measured on', () => {
  const [width, height] = [21, 18]
  const plane = anyFloats(width * height)
  it('are found where they lie, with their mean and what is cut off in them', () => {
    const ends = Float32Array.from({ length: width * height }, (_, i) => (i % 5 === 0 ? 1 : 0))
    heap.scope(() => {
      const [at, means, sums] = [heap.allocate(400), heap.allocate(400), heap.allocate(400)]
      const count = run.placeBlocks(heap.floats(plane), heap.floats(ends), width, height, 5, 1000, at, means, sums)
      const wanted = [0, 5, 10].flatMap((y) => [0, 5, 10].map((x) => y * width + x))
      expect([...heap.i32(at, count)]).toEqual(wanted.map((start) => 1000 + start * 4))
      for (const [n, start] of wanted.entries()) {
        const pixels = Array.from({ length: 64 }, (_, i) => start + (i >> 3) * width + (i & 7))
        expect(heap.f32(means, count)[n]).toBeCloseTo(pixels.reduce((sum, i) => sum + (plane[i] as number), 0) / 64, 6)
        expect(heap.f32(sums, count)[n]).toBe(pixels.reduce((sum, i) => sum + (ends[i] as number), 0))
      }
    })
  })
  it('are transformed as the definition of the orthonormal cosine transform says (Ahmed, Natarajan & Rao 1974)', () => {
    const basis = (k: number, n: number): number => Math.sqrt((k === 0 ? 1 : 2) / 8) * Math.cos(((2 * n + 1) * k * Math.PI) / 16)
    const starts = [0, 3 * width + 7]
    heap.scope(() => {
      const target = heap.allocate(2 * 256)
      const [even, odd] = [heap.allocate(8), heap.allocate(8)]
      const at = heap.integers(starts.map((start) => start * 4))
      run.transformBlocks(heap.floats(plane), at, heap.integers([width, width]), 2, target, even, odd)
      for (const [n, start] of starts.entries()) {
        const energy = [0, 0]
        for (let u = 0; u < 8; u++)
          for (let v = 0; v < 8; v++) {
            let sum = 0
            for (let y = 0; y < 8; y++)
              for (let x = 0; x < 8; x++) sum += basis(u, x) * basis(v, y) * (plane[start + y * width + x] as number)
            // Either way round: nothing that is measured tells across from down.
            const found = [heap.f32(target, 128)[n * 64 + 8 * u + v], heap.f32(target, 128)[n * 64 + 8 * v + u]] as [number, number]
            expect(Math.min(...found.map((value) => Math.abs(value - sum)))).toBeLessThan(1e-5)
            if (u + v > 0 && u + v <= 5) energy[(u + v) & 1] = (energy[(u + v) & 1] as number) + sum * sum
          }
        expect(heap.f32(even, 2)[n]).toBeCloseTo(energy[0] as number, 4)
        expect(heap.f32(odd, 2)[n]).toBeCloseTo(energy[1] as number, 4)
      }
    })
  })
  it('are chosen for being flat, and squared by their factors', () => {
    heap.scope(() => {
      const activity = heap.floats([5, 1, 4, 2, 3, 0, 2])
      const numbers = heap.integers([6, 4, 3, 2, 1])
      const [scratch, target] = [heap.allocate(32), heap.allocate(32)]
      expect([...heap.i32(target, run.chooseFlattest(activity, numbers, 5, 1, scratch, target))]).toEqual([6, 3, 1])
      const coefficients = heap.floats(Float32Array.from({ length: 128 }, (_, i) => i))
      const squares = heap.allocate(16)
      run.squaresOfBlocks(coefficients, heap.integers([1, 0]), heap.floats([2, 3]), 2, heap.integers([0, 6]), 2, squares)
      expect([...heap.f32(squares, 4)]).toEqual([(64 / 2) ** 2, (70 / 2) ** 2, 0, 4])
    })
  })
  it('are cut off where a channel comes too near to either end', () => {
    heap.scope(() => {
      const [r, g, b] = [
        [0.5, 0.001, 0.5, 0.5],
        [0.5, 0.5, 0.999, 0.5],
        [0.5, 0.5, 0.5, 0.02],
      ].map((values) => heap.floats(values)) as [number, number, number]
      const target = heap.allocate(16)
      run.markCutOff(r, g, b, target, 4, 0.01)
      expect([...heap.f32(target, 4)]).toEqual([0, 1, 1, 0])
    })
  })
})
