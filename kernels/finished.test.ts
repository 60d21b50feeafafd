import { describe, expect, it } from 'vitest'
import { testKernels } from '../tests/kernels'
import { seeded } from '../tests/pictures'

const { heap, run } = await testKernels()
const random = seeded(5)
const anyFloats = (length: number): Float32Array => Float32Array.from({ length }, () => random())

describe('light of codes', () => {
  it.each([0, 1] as const)('is added up over places between pixels, 16 bits: %d', (wide) => {
    const light = Float32Array.from({ length: 256 }, (_, code) => (code / 255) ** 2)
    const codes = Array.from({ length: 60 }, () => Math.floor(random() * (wide ? 65536 : 256)))
    const bytes = wide ? new Uint8Array(Uint16Array.from(codes).buffer) : Uint8Array.from(codes)
    const [size, factor, step, reads] = [wide ? 2 : 1, 5, 2, 2]
    heap.scope(() => {
      const at = heap.allocate(bytes.length)
      heap.u8(at, bytes.length).set(bytes)
      const planes = [0, 1, 2].map(() => heap.floats([1, 1, 1])) as [number, number, number]
      run.addLight(at, wide, 3, factor * 3 * size, step * 3 * size, reads, heap.floats(light), ...planes)
      for (const [channel, plane] of planes.entries())
        for (let x = 0; x < 3; x++) {
          const read = Array.from({ length: reads }, (_, i) => (codes[(x * factor + i * step) * 3 + channel] as number) >> (wide ? 8 : 0))
          expect(heap.f32(plane, 3)[x]).toBeCloseTo(1 + read.reduce((sum, code) => sum + (light[code] as number), 0), 5)
        }
    })
  })
})

describe('straight edges', () => {
  const [width, height] = [13, 9]
  it('have the products of Scharr’s derivatives, nothing at the sides (Scharr 2000)', () => {
    const plane = anyFloats(width * height)
    const pixel = (x: number, y: number): number => plane[y * width + x] as number
    const weights = [3, 10, 3].map((weight) => weight / 32)
    heap.scope(() => {
      const light = heap.floats([...plane, ...new Float32Array(16)])
      const planes = [0, 1, 2].map(() => heap.allocate(width * height * 4 + 64)) as [number, number, number]
      run.slopeProducts(light, width, height, ...planes)
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const isInside = x > 0 && y > 0 && x < width - 1 && y < height - 1
          const sum = (of: (shift: number) => number): number =>
            isInside ? weights.reduce((all, weight, i) => all + weight * of(i - 1), 0) : 0
          const across = sum((d) => pixel(x + 1, y + d) - pixel(x - 1, y + d))
          const down = sum((d) => pixel(x + d, y + 1) - pixel(x + d, y - 1))
          for (const [i, wanted] of [across * across, across * down, down * down].entries())
            expect(heap.f32(planes[i] as number, width * height)[y * width + x]).toBeCloseTo(wanted, 5)
        }
    })
  })
  it('are told by energy, crest and coherence, away from the sides', () => {
    const length = width * height
    const at = (x: number, y: number): number => y * width + x
    const [xx, meanXx, meanXy, meanYy] = [0, 1, 2, 3].map(() => new Float32Array(length)) as [
      Float32Array,
      Float32Array,
      Float32Array,
      Float32Array,
    ]
    const place = (x: number, y: number, own: number, a: number, b: number, c: number): void => {
      xx[at(x, y)] = own
      meanXx[at(x, y)] = a
      meanXy[at(x, y)] = b
      meanYy[at(x, y)] = c
    }
    place(4, 4, 2, 1, 0, 0)
    // Too faint; not the crest; two directions; at the side; slanted, and as straight.
    place(5, 4, 2, 0.01, 0, 0)
    place(6, 4, 0.5, 1, 0, 0)
    place(7, 4, 2, 0.6, 0, 0.6)
    place(1, 4, 2, 1, 0, 0)
    place(8, 5, 2, 0.5, -0.5, 0.5)
    heap.scope(() => {
      const [own, none, a, b, c] = [xx, new Float32Array(length), meanXx, meanXy, meanYy].map((plane) => heap.floats(plane)) as [
        number,
        number,
        number,
        number,
        number,
      ]
      const target = heap.allocate(length * 4)
      const count = run.straightPlaces(own, none, a, b, c, width, height, 2, 0.1, 0.9, target)
      expect([...heap.i32(target, count)]).toEqual([at(4, 4), at(8, 5)])
    })
  })
  it('score by the squares of the lengths of their lines, and the longest of all', () => {
    // Five on one line that leans by atan(1/2), one by itself.
    const [off, along] = [
      [0, 1, 2, 3, 4, 9],
      [0, -2, -4, -6, -8, 9],
    ]
    const length = Math.hypot(1, 2)
    heap.scope(() => {
      const [lines, target] = [heap.allocate(41 * 4), heap.doubles([100, 2])]
      run.scoreLines(heap.floats(off as number[]), heap.floats(along as number[]), 6, 2 / length, 1 / length, lines, 41, target)
      const own = 20 + (9 * 2 + 9) / length
      const beyond = own - Math.floor(own)
      expect(heap.f64(target, 2)[0]).toBeCloseTo(100 + 25 + beyond ** 2 + (1 - beyond) ** 2, 3)
      expect(heap.f64(target, 2)[1]).toBeCloseTo(5, 4)
      run.scoreLines(heap.floats([]), heap.floats([]), 0, 1, 0, lines, 41, target)
      expect(heap.f64(target, 2)[1]).toBeCloseTo(5, 4)
    })
  })
})

describe('edges along a line', () => {
  it('have what of their step lies within one pixel, each once, those that are high enough', () => {
    const line = new Float32Array(80).map((_, x) => (x < 20 ? 0 : x < 24 ? 25 * (x - 19) : x < 50 ? 100 : x < 60 ? 60 : 200))
    heap.scope(() => {
      const target = heap.allocate(80 * 4)
      const count = run.edgesAlong(heap.floats(line), line.length, 60, target)
      // A ramp of four steps; one of 40 that is too low; one that is there at once.
      expect([...heap.f32(target, count)]).toEqual([0.25, 1])
    })
  })
  it('are read as luma, every so many bytes', () => {
    heap.scope(() => {
      const codes = heap.allocate(16)
      heap.u8(codes, 16).set([10, 20, 30, 255, 40, 50, 60, 255, 70, 80, 90, 255])
      const target = heap.allocate(8)
      run.lumaLine(codes, 0, 8, 2, heap.floats([0.5, 0.25, 2]), target)
      expect([...heap.f32(target, 2)]).toEqual([70, 235])
    })
  })
})
