import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { present } from '@/base/present'
import { keysOf } from '@/base/schema'
import { evaluateCurve, srgbCurve } from '@/colour/curve'
import { coneToLab, coneToWorking, labToCone, workingToCone, workingToOklab } from '@/colour/oklab'
import { srgbTransfer } from '@/colour/transfer'
import { type ResamplingKernelId, resamplingKernels, weightTable } from '@/pixels/resampling'
import { testKernels } from '../tests/kernels'
import type { KernelExports, Kernels, PointKernelName } from './binding'
import { strideOf } from './planes'

let kernels: Kernels
beforeAll(async () => {
  kernels = await testKernels()
})

/** Runs a point kernel on three short planes. */
function points(name: PointKernelName, planes: readonly (readonly number[])[], parameters: readonly number[] = []): number[][] {
  const { heap, run } = kernels
  return heap.scope(() => {
    const count = (planes[0]?.length ?? 0 + 3) & ~3 || 4
    const [r, g, b] = planes.map((plane) => heap.floats([...plane, ...new Array(count - plane.length).fill(0)])) as [number, number, number]
    run[name](r, g, b, count, heap.floats(parameters))
    return [r, g, b].map((plane) => [...heap.f32(plane, count)])
  })
}
const ramp = (from: number, to: number, count = 4096): number[] =>
  Array.from({ length: count }, (_, i) => from + ((to - from) * i) / (count - 1))
const worst = (actual: readonly number[], expected: readonly number[]): number =>
  Math.max(...actual.map((value, i) => Math.abs(value - (expected[i] ?? Number.NaN))))
/** One code of 16 bits. */
const code16 = 1 / 65535

describe('the compiled module', () => {
  it('keeps what is its own below the heap', async () => {
    const { heap, run } = await testKernels()
    // Among its own: the scratch of the transforms, which is not empty once they have run.
    const own = run.freeFrom()
    expect(own).toBeGreaterThan(1024)
    expect(heap.scope(() => heap.allocate(16))).toBeGreaterThanOrEqual(own)
  })
  it('writes nothing of its own beyond', async () => {
    const memory = new WebAssembly.Memory({ initial: 256, maximum: 32768 })
    const module = new WebAssembly.Module(readFileSync('.build/kernels.wasm'))
    const { exports } = await WebAssembly.instantiate(module, { env: { memory, abort: () => undefined } })
    const { freeFrom, shrinkStaggered } = exports as unknown as KernelExports
    const [own, far] = [freeFrom(), 1 << 20]
    // A block of noise at the far end: thresholds and factors of 0, all scratch behind them.
    new Float32Array(memory.buffer, far, 64).set(ramp(0, 1).slice(0, 64))
    shrinkStaggered(far, far, 8, far + 4096, 8, 1, 1, far + 8192, 0, far + 12288, far, far + 16384)
    expect(new Uint8Array(memory.buffer, 0, own).some((byte) => byte !== 0)).toBe(true)
    expect(new Uint8Array(memory.buffer, own, far - own).every((byte) => byte === 0)).toBe(true)
  })
})

describe('the sRGB transfer (IEC 61966-2-1)', () => {
  const values = ramp(-0.2, 1)
  it('decodes within a fifth of a 16-bit code', () => {
    expect(worst(points('toLinear', [values, values, values])[0] ?? [], values.map(srgbTransfer.decode))).toBeLessThan(0.2 * code16)
  })
  it('encodes within a fifth of a 16-bit code', () => {
    expect(worst(points('toEncoded', [values, values, values])[1] ?? [], values.map(srgbTransfer.encode))).toBeLessThan(0.2 * code16)
  })
  it('follows the power law above 1, relative error below 1e-6', () => {
    const bright = ramp(1.001, 40)
    const [encoded = []] = points('toEncoded', [bright, bright, bright])
    expect(Math.max(...encoded.map((value, i) => Math.abs(value / srgbTransfer.encode(bright[i] ?? 1) - 1)))).toBeLessThan(1e-6)
  })
  it('comes back from a round trip within half a 16-bit code', () => {
    const [encoded = [], , third = []] = points('toEncoded', [values, values, values])
    expect(worst(points('toLinear', [encoded, encoded, third])[2] ?? [], values)).toBeLessThan(0.5 * code16)
  })
})

describe('OKLab', () => {
  const [r, g, b] = [ramp(0, 1), ramp(1, 0.02), ramp(0.3, 1.8)]
  const lab = () => points('toOklab', [r, g, b], [...workingToCone, ...coneToLab])
  it('is the reference conversion within 1e-6', () => {
    const expected = r.map((red, i) => workingToOklab([red, g[i] ?? 0, b[i] ?? 0]))
    lab().forEach((plane, channel) => {
      expect(
        worst(
          plane,
          expected.map((value) => value[channel] ?? 0),
        ),
      ).toBeLessThan(1e-6)
    })
  })
  it('comes back from a round trip within 2e-6', () => {
    points('fromOklab', lab(), [...labToCone, ...coneToWorking]).forEach((plane, channel) => {
      expect(worst(plane, [r, g, b][channel] ?? [])).toBeLessThan(2e-6)
    })
  })
  it('keeps black black and stays finite for it', () => {
    for (const plane of points('toOklab', [[0], [0], [0]], [...workingToCone, ...coneToLab]))
      expect(Math.abs(plane[0] ?? 1)).toBeLessThan(1e-9)
  })
})

describe('levels', () => {
  it('is (v·scale + offset)^exponent·outScale + outOffset, oddly below 0', () => {
    const parameters = [1.2, -0.1, 0.7, 0.9, 0.05]
    const values = ramp(-0.3, 1.5)
    const expected = values.map((v) => {
      const t = v * 1.2 - 0.1
      return Math.sign(t) * Math.abs(t) ** 0.7 * 0.9 + 0.05
    })
    expect(
      worst(points('levels', [values, values, values], [...parameters, ...parameters, ...parameters])[0] ?? [], expected),
    ).toBeLessThan(2e-6)
  })
})

describe('rows at rest and planes in flight', () => {
  const width = 37
  function encode(values: readonly number[], dither: 0 | 1, x = 0, y = 0): number[] {
    return kernels.heap.scope(() => {
      const padded = [...values, 0, 0, 0]
      const plane = kernels.heap.floats(padded)
      const target = kernels.heap.allocate(values.length * 3 + 64)
      kernels.run.encodeRow8(plane, plane, plane, values.length, target, 3, x, y, dither)
      return [...kernels.heap.u8(target, values.length * 3)]
    })
  }
  it('decodes every code through the tables', () => {
    const [rows, stride] = [3, 44]
    const codes = Uint8Array.from({ length: width * 3 * rows }, (_, i) => (i * 7) % 256)
    const decoded = kernels.heap.scope(() => {
      const { heap } = kernels
      const source = heap.allocate(codes.length + 64)
      heap.u8(source, codes.length).set(codes)
      const tables = new Float32Array(3 * 256 * 4)
      for (let channel = 0; channel < 3; channel++)
        for (let code = 0; code < 256; code++) tables[(channel * 256 + code) * 4 + channel] = evaluateCurve(srgbCurve, code / 255)
      const [r, g, b] = [0, 1, 2].map(() => heap.allocate(stride * rows * 4)) as [number, number, number]
      kernels.run.decodeRows8(source, width * 3, width, rows, heap.floats(tables), r, g, b, stride)
      return [r, g, b].map((plane) => Array.from({ length: rows }, (_, y) => [...heap.f32(plane + y * stride * 4, width)]))
    })
    decoded.forEach((plane, channel) => {
      plane.forEach((row, y) => {
        row.forEach((value, x) => {
          expect(value).toBeCloseTo(srgbTransfer.decode((codes[(y * width + x) * 3 + channel] ?? 0) / 255), 6)
        })
      })
    })
  })
  it('rounds to the nearest code without dither, and holds what lies outside', () => {
    const values = [0, 1, 0.5, 127.4 / 255, 127.6 / 255, -3, 9, Number.NaN]
    const codes = encode(values, 0).filter((_, i) => i % 3 === 0)
    expect(codes).toEqual([0, 255, 128, 127, 128, 0, 255, 0])
  })
  it.each([1, 2, 3, 4, 5, 7, 8, 13])('rows of %i pixels of 16 bits: rounded, held, and read back', (pixels) => {
    const { heap, run } = kernels
    heap.scope(() => {
      const odd = [Number.NaN, -3, 9, 0, 1, 0.25 + 0.4 * code16, 0.75 - 0.4 * code16]
      const planes = [3, 5, 11].map((step) => Array.from({ length: pixels }, (_, i) => odd[(i * step + step) % odd.length] ?? 0))
      const [r, g, b] = planes.map((plane) => heap.floats([...plane, 0, 0, 0])) as [number, number, number]
      const target = heap.allocate(pixels * 6 + 64)
      run.encodeRow16(r, g, b, pixels, target)
      const codes = new Uint16Array(heap.memory.buffer, target, pixels * 3).slice()
      const wanted = (value: number): number => (Number.isNaN(value) ? 0 : Math.floor(Math.min(1, Math.max(0, value)) * 65535 + 0.5))
      expect([...codes]).toEqual(Array.from({ length: pixels * 3 }, (_, i) => wanted(planes[i % 3]?.[Math.floor(i / 3)] ?? 0)))
      const tables = heap.allocate(3 * 65536 * 4)
      heap.f32(tables, 3 * 65536).forEach((_, i, all) => {
        all[i] = (i % 65536) / 65535
      })
      const matrix = heap.floats([0.5, 0.25, 0.25, 0, 1, 0, 0.1, 0.2, 0.7])
      run.decodeRow16(target, pixels, tables, matrix, r, g, b)
      for (let i = 0; i < pixels; i++) {
        const [red, green, blue] = [0, 1, 2].map((c) => (codes[i * 3 + c] ?? 0) / 65535) as [number, number, number]
        expect(heap.f32(r, pixels)[i]).toBeCloseTo(0.5 * red + 0.25 * green + 0.25 * blue, 6)
        expect(heap.f32(g, pixels)[i]).toBeCloseTo(green, 6)
        expect(heap.f32(b, pixels)[i]).toBeCloseTo(0.1 * red + 0.2 * green + 0.7 * blue, 6)
      }
    })
  })
  it('dithers by less than one code, keeps the mean, and depends on the place alone', () => {
    const values = new Array(4000).fill(100.3 / 255)
    const row = encode(values, 1, 12, 34)
    expect(Math.min(...row)).toBe(100)
    expect(Math.max(...row)).toBe(101)
    expect(row.reduce((sum, code) => sum + code, 0) / row.length).toBeCloseTo(100.3, 1)
    expect(encode(values.slice(0, 16), 1, 112, 34)).toEqual(row.slice(300, 348))
  })
  it('never moves a value that is a code already', () => {
    const values = Array.from({ length: 256 }, (_, code) => code / 255)
    expect(encode(values, 1, 5, 9).filter((_, i) => i % 3 === 1)).toEqual(values.map((_, code) => code))
  })
})

describe('neighbourhoods against plain sums', () => {
  const [width, height, reach] = [13, 9, 3]
  const [wide, high] = [width + 2 * reach, height + 2 * reach]
  const stride = (wide + 3) & ~3
  const targetStride = (width + 3) & ~3
  const source = fc.array(fc.double({ min: -1, max: 2, noNaN: true }), { minLength: stride * high, maxLength: stride * high })

  it('convolves rows', () => {
    const weights = [0.4, 0.2, 0.08, 0.02]
    fc.assert(
      fc.property(source, (values) => {
        const result = kernels.heap.scope(() => {
          const target = kernels.heap.allocate(targetStride * height * 4)
          const from = kernels.heap.floats([...values, ...new Array(16).fill(0)])
          kernels.run.convolveRows(
            from + reach * stride * 4,
            stride,
            target,
            targetStride,
            targetStride,
            height,
            kernels.heap.floats(weights),
            reach,
          )
          return [...kernels.heap.f32(target, targetStride * height)]
        })
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++) {
            let sum = 0
            for (let k = -reach; k <= reach; k++) sum += (values[(y + reach) * stride + x + reach + k] ?? 0) * (weights[Math.abs(k)] ?? 0)
            expect(result[y * targetStride + x]).toBeCloseTo(sum, 5)
          }
      }),
      { numRuns: 20 },
    )
  })
  it('finds the largest and smallest of a column window', () => {
    fc.assert(
      fc.property(source, fc.constantFrom(0 as const, 1 as const), (values, largest) => {
        const result = kernels.heap.scope(() => {
          const target = kernels.heap.allocate(targetStride * height * 4)
          kernels.run.windowColumns(kernels.heap.floats(values), stride, target, targetStride, targetStride, height, reach, largest)
          return [...kernels.heap.f32(target, targetStride * height)]
        })
        for (let x = 0; x < width; x++) {
          const column = Array.from({ length: 2 * reach + 1 }, (_, k) => Math.fround(values[(4 + k) * stride + x] ?? 0))
          expect(result[4 * targetStride + x]).toBeCloseTo(largest ? Math.max(...column) : Math.min(...column), 12)
        }
      }),
      { numRuns: 20 },
    )
  })
  it('repeats the edges of a part of a plane outwards', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 5 }), fc.integer({ min: 0, max: 4 }), fc.integer({ min: 1, max: 4 }), (left, top, size) => {
        const [wide, high] = [13, 10]
        const values = Array.from({ length: targetStride * high }, (_, i) => i)
        const made = kernels.heap.scope(() => {
          const plane = kernels.heap.floats(values)
          kernels.run.repeatEdges(plane, targetStride, wide, high, left, top, left + size, top + size)
          return [...kernels.heap.f32(plane, targetStride * high)]
        })
        const within = (at: number, first: number) => Math.min(Math.max(at, first), first + size - 1)
        for (let y = 0; y < high; y++)
          for (let x = 0; x < wide; x++) expect(made[y * targetStride + x]).toBe(values[within(y, top) * targetStride + within(x, left)])
      }),
    )
  })
  /** Rows of 23 outputs of 40, and what a kernel makes of them. */
  function resampledRows(rows: number, isHeld: boolean, filter: ResamplingKernelId = 'lanczos3') {
    const table = weightTable(resamplingKernels[filter], 40, 23)
    const first = table.starts[0] ?? 0
    const stride = strideOf((table.starts[22] ?? 0) + table.taps - first)
    const values = Array.from({ length: stride * rows }, (_, i) => Math.sign(Math.sin(i / 4)) + Math.sin(i * i) / 10)
    const { heap, run } = kernels
    const made = heap.scope(() => {
      const target = heap.allocate(24 * rows * 4)
      const starts = heap.integers(table.starts.map((start) => start - first))
      const side = heap.allocate(stride * 16)
      const usual = [heap.floats(values), stride, target, 24, 23, rows, starts, heap.floats(table.weights), table.taps] as const
      const surroundings = isHeld ? present(table.surroundings) : { from: [], count: 0 }
      run.resampleRows(...usual, heap.integers(surroundings.from), surroundings.count, 0, side)
      return Array.from({ length: rows }, (_, y) => [...heap.f32(target + y * 96, 23)])
    })
    const inputs = (y: number, x: number) =>
      Array.from({ length: table.taps }, (_, t) => values[y * stride + (table.starts[x] ?? 0) - first + t] ?? 0)
    return { table, made, inputs }
  }
  it.each([1, 2, 3, 4, 6, 9])('resamples %i rows with weight tables of any length', (rows) => {
    const lengths = keysOf(resamplingKernels).map((filter) => {
      const { table, made, inputs } = resampledRows(rows, false, filter)
      for (const [y, row] of made.entries())
        for (const [x, value] of row.entries()) {
          const sum = inputs(y, x).reduce((all, input, t) => all + input * (table.weights[x * table.taps + t] ?? 0), 0)
          expect(value).toBeCloseTo(sum, 5)
        }
      return table.taps % 4
    })
    expect(new Set(lengths).size).toBe(4)
  })
  it('holds outputs within the samples near them', () => {
    const { table, made, inputs } = resampledRows(5, true)
    const free = resampledRows(5, false).made
    const { from, count } = present(table.surroundings)
    let held = 0
    for (const [y, row] of made.entries())
      for (const [x, value] of row.entries()) {
        const near = inputs(y, x).slice(from[x] ?? 0, (from[x] ?? 0) + count)
        const wanted = Math.min(Math.max(free[y]?.[x] ?? 0, Math.min(...near)), Math.max(...near))
        expect(value).toBeCloseTo(wanted, 6)
        if (wanted !== free[y]?.[x]) held++
      }
    expect(held).toBeGreaterThan(5)
  })
})

describe('the heap', () => {
  it('gives scopes back, keeps 16-byte alignment, and grows', () => {
    const { heap } = kernels
    const before = heap.allocate(1)
    heap.scope(() => {
      expect(heap.allocate(5) % 16).toBe(0)
      const large = heap.allocate(64 << 20)
      heap.f32(large, 4).set([1, 2, 3, 4])
      expect([...heap.f32(large, 4)]).toEqual([1, 2, 3, 4])
    })
    expect(heap.allocate(1)).toBe(before + 16)
  })
})
