import { describe, expect, it } from 'vitest'
import { invert, transform, type Vector3 } from '@/colour/matrix'
import { coneToLab, labToCone, workingToCone } from '@/colour/oklab'
import { testKernels } from '../tests/kernels'
import { seeded } from '../tests/pictures'

const random = seeded(21)
const floats = (length: number, scale = 1, offset = 0): Float32Array => Float32Array.from({ length }, () => random() * scale + offset)

describe('plane functions', () => {
  it('despeckling follows the ranks of eight neighbours, whatever their order', async () => {
    const { heap, run } = await testKernels()
    const [width, height] = [36, 9]
    const plane = floats(width * height)
    for (const distance of [1, 2, 3])
      heap.scope(() => {
        const at = heap.floats(plane)
        const target = heap.allocate(width * 4 + 64)
        const y = 4
        // The row's own ends have no neighbours here: a window of 28 in the middle.
        run.despeckleRow(at + (y * width + 4) * 4, width, target, 28, distance, 0.05)
        const result = heap.f32(target, 28)
        for (let x = 4; x < 32; x++) {
          const ring = [-distance, 0, distance]
            .flatMap((dy) => [-distance, 0, distance].map((dx) => [dx, dy] as const))
            .filter(([dx, dy]) => dx !== 0 || dy !== 0)
            .map(([dx, dy]) => plane[(y + dy) * width + x + dx] as number)
            .sort((a, b) => a - b)
          const value = plane[y * width + x] as number
          const outside = value > (ring[6] as number) + 0.05 || value < (ring[1] as number) - 0.05
          expect(result[x - 4]).toBeCloseTo(outside ? ((ring[3] as number) + (ring[4] as number)) / 2 : value, 6)
        }
      })
  })
  it('a band is added by its gain, what is fainter than the threshold not at all', async () => {
    const { heap, run } = await testKernels()
    const [target, upper, lower] = [floats(64), floats(64), floats(64)]
    heap.scope(() => {
      const [t, u, l] = [target, upper, lower].map((values) => heap.floats(values)) as [number, number, number]
      run.addBand(t, u, l, 64, 0.7, 0.2)
      heap.f32(t, 64).forEach((value, i) => {
        const band = (upper[i] as number) - (lower[i] as number)
        const shrunk = Math.sign(band) * Math.max(0, Math.abs(band) - 0.2)
        expect(value).toBeCloseTo((target[i] as number) + 0.7 * shrunk, 6)
      })
    })
  })
  it('light that follows another keeps the ratios of the channels, within its limit', async () => {
    const { heap, run } = await testKernels()
    const planes = [floats(32, 1, 0.1), floats(32, 1, 0.1), floats(32, 1, 0.1)] as const
    const [before, after] = [floats(32, 1, 0.05), floats(32, 1, 0.05)]
    heap.scope(() => {
      const [r, g, b, from, to] = [...planes, before, after].map((values) => heap.floats(values)) as [
        number,
        number,
        number,
        number,
        number,
      ]
      run.followLight(r, g, b, from, to, 32, 2)
      for (let i = 0; i < 32; i++) {
        const gain = Math.min(2, Math.max(0.5, (after[i] as number) / (before[i] as number)))
        expect(heap.f32(g, 32)[i]).toBeCloseTo((planes[1][i] as number) * gain, 5)
      }
    })
  })
})

describe('maps', () => {
  const [width, height] = [20, 16]
  const warp = async (plane: Float32Array, matrix: readonly number[]): Promise<Float32Array> => {
    const { heap, run } = await testKernels()
    return heap.scope(() => {
      // Two pixels around the picture repeat its edge, as the engine lays them.
      const [w, h] = [width + 6, height + 6]
      const padded = Float32Array.from({ length: w * h + 8 }, (_, i) => {
        const [x, y] = [Math.min(width - 1, Math.max(0, (i % w) - 3)), Math.min(height - 1, Math.max(0, Math.floor(i / w) - 3))]
        return plane[y * width + x] as number
      })
      const [source, target, m] = [heap.floats(padded), heap.allocate(width * height * 4 + 64), heap.doubles(matrix)]
      const spare = heap.allocate(width * 4 + 64)
      for (let y = 0; y < height; y++)
        run.warpRow(source, source, source, w, -3, -3, width, height, target + y * width * 4, spare, spare, width, 0, y, m)
      return heap.f32(target, width * height).slice()
    })
  }
  it('the identity leaves every value as it is', async () => {
    const plane = floats(width * height)
    const result = await warp(plane, [1, 0, 0, 0, 1, 0, 0, 0, 1])
    result.forEach((value, i) => {
      expect(value).toBeCloseTo(plane[i] as number, 6)
    })
  })
  it('half a pixel across takes Catmull-Rom’s weights −1/16, 9/16, 9/16, −1/16', async () => {
    const plane = floats(width * height)
    const result = await warp(plane, [1, 0, 0.5, 0, 1, 0, 0, 0, 1])
    const at = (x: number): number => plane[5 * width + Math.min(width - 1, Math.max(0, x))] as number
    for (let x = 0; x < width - 1; x++)
      expect(result[5 * width + x]).toBeCloseTo((-at(x - 1) + 9 * at(x) + 9 * at(x + 1) - at(x + 2)) / 16, 5)
  })
  it('places outside take the nearest edge', async () => {
    const plane = floats(width * height)
    const result = await warp(plane, [1, 0, 1000, 0, 1, 0, 0, 0, 1])
    for (let y = 0; y < height; y++) expect(result[y * width + 3]).toBeCloseTo(plane[y * width + width - 1] as number, 5)
  })
})

describe('masks and ends of the scale', () => {
  it('ranges, gradients and joints follow their formulas', async () => {
    const { heap, run } = await testKernels()
    const values = floats(64, 1.4, -0.2)
    const smooth = (t: number): number => {
      const held = Math.min(1, Math.max(0, t))
      return held * held * (3 - 2 * held)
    }
    heap.scope(() => {
      const [source, mask, other] = [heap.floats(values), heap.allocate(300), heap.allocate(300)]
      run.limitRange(source, mask, 64, 0.2, 0.6, 0.25)
      const range = [...heap.f32(mask, 64)]
      range.forEach((value, i) => {
        const v = values[i] as number
        expect(value).toBeCloseTo(smooth(1 - Math.max(0.2 - v, v - 0.6) / 0.25), 5)
      })
      run.limitLinear(other, 16, 16, 4, 10, 20, 0.05, 0.02, -0.9)
      const linear = [...heap.f32(other, 64)]
      linear.forEach((value, i) => {
        expect(value).toBeCloseTo(1 - smooth(0.05 * (10.5 + (i % 16)) + 0.02 * (20.5 + Math.floor(i / 16)) - 0.9), 4)
      })
      run.limitRadial(other, 16, 16, 4, 10, 20, 17, 22, 1 / 9, 1 / 3, 0.4)
      const radial = [...heap.f32(other, 64)]
      radial.forEach((value, i) => {
        const far = Math.hypot((10.5 + (i % 16) - 17) / 9, (20.5 + Math.floor(i / 16) - 22) / 3)
        expect(value).toBeCloseTo(1 - smooth((far - 0.4) / 0.6), 5)
      })
      heap.f32(other, 64).set(linear)
      for (const [how, join] of [
        [0, (a: number, b: number) => a * b],
        [1, Math.max],
        [2, (a: number, b: number) => a * (1 - b)],
      ] as const)
        for (const inverted of [0, 1] as const) {
          heap.f32(mask, 64).set(range)
          run.joinMasks(mask, other, 64, how, inverted)
          heap.f32(mask, 64).forEach((value, i) => {
            const second = inverted ? 1 - (linear[i] as number) : (linear[i] as number)
            expect(value).toBeCloseTo(join(range[i] as number, second), 5)
          })
        }
    })
  })
  it('gamut mapping leaves what is inside to the bit, makes the rest fit, and knows white and black', async () => {
    const { heap, run } = await testKernels()
    const inside = [floats(32), floats(32), floats(32)] as const
    const wild = [floats(32, 3, -1), floats(32, 3, -1), floats(32, 3, -1)] as const
    for (const plane of wild) plane.set([4, -3], 0)
    const parameters = [...workingToCone, ...coneToLab, ...labToCone, ...invert(workingToCone)]
    const map = (planes: readonly Float32Array[]): Float32Array[] =>
      heap.scope(() => {
        const [r, g, b] = planes.map((plane) => heap.floats(plane)) as [number, number, number]
        run.mapGamut(r, g, b, 32, heap.floats(parameters))
        return [r, g, b].map((at) => heap.f32(at, 32).slice())
      })
    map(inside).forEach((plane, c) => {
      expect([...plane]).toEqual([...(inside[c] as Float32Array)])
    })
    const mapped = map(wild)
    for (const plane of mapped) {
      for (const value of plane) {
        expect(value).toBeGreaterThan(-0.001)
        expect(value).toBeLessThan(1.001)
      }
      expect([plane[0], plane[1]]).toEqual([1, 0])
    }
  })
  it('gamut mapping stops where the way to the grey of its formula leaves the space (Ottosson 2021; in doubles, by bisection)', async () => {
    const { heap, run } = await testKernels()
    const count = 4000
    const wild = [0, 1, 2].map(() => floats(count, 1.7, -0.35)) as [Float32Array, Float32Array, Float32Array]
    const parameters = [...workingToCone, ...coneToLab, ...labToCone, ...invert(workingToCone)]
    const mapped = heap.scope(() => {
      const planes = wild.map((plane) => heap.floats(plane)) as [number, number, number]
      run.mapGamut(...planes, count, heap.floats(parameters))
      return planes.map((at) => heap.f32(at, count).slice())
    })
    const at = (planes: readonly Float32Array[], i: number) => planes.map((plane) => plane[i] as number) as unknown as Vector3
    const excess = (rgb: Vector3) => Math.max(...rgb.map((value) => Math.max(-value, value - 1)))
    const far: number[] = []
    for (let i = 0; i < count; i++) {
      const rgb = at(wild, i)
      if (excess(rgb) <= 0.0002 || Math.min(...rgb) >= 1 || Math.max(...rgb) <= 0) continue
      const [l, u, v] = transform(coneToLab, transform(workingToCone, rgb).map(Math.cbrt) as unknown as Vector3)
      const [d, chroma] = [l - 0.5, Math.hypot(u, v)]
      const e = 0.5 + Math.abs(d) + 0.05 * chroma
      const grey = 0.5 * (1 + Math.sign(d) * (e - Math.sqrt(Math.max(0, e * e - 2 * Math.abs(d)))))
      const onTheWay = (t: number): Vector3 => {
        const roots = transform(labToCone, [grey + t * (l - grey), t * u, t * v])
        return transform(invert(workingToCone), roots.map((root) => root ** 3) as unknown as Vector3)
      }
      let [inside, outside] = [0, 1]
      for (let step = 0; step < 40; step++) {
        const middle = (inside + outside) / 2
        if (excess(onTheWay(middle)) <= 0) inside = middle
        else outside = middle
      }
      expect(excess(at(mapped, i))).toBeLessThan(0.0005)
      const expected = onTheWay(inside)
      far.push(Math.max(...at(mapped, i).map((value, c) => Math.abs(value - (expected[c] as number)))))
    }
    far.sort((a, b) => a - b)
    expect(far.length).toBeGreaterThan(1000)
    expect(far[Math.floor(far.length * 0.9)]).toBeLessThan(0.0005)
    expect(far.at(-1)).toBeLessThan(0.01)
  })
})
