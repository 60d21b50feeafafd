import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { integerAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { type Curve, evaluateCurve } from '@/colour/curve'
import type { InterleavedSource, PixelColour } from '@/pixels/picture'
import { fullSizeOf, type PlaneSource, type Source } from './source'

/** A source whose codes have 8 bits. */
export type EightBitSource = InterleavedSource & { readonly pixels: Uint8Array }

export const isEightBit = (source: Source): source is EightBitSource => source.kind === 'interleaved' && source.pixels instanceof Uint8Array

/** The first sample behind each of `cells` equal parts of a length: a sample belongs to the part that its middle lies in. */
const endsOf = (length: number, cells: number): Int32Array =>
  Int32Array.from({ length: cells }, (_, cell) => Math.ceil(((cell + 1) * length) / cells - 0.5))

/** The light of any two codes that follow each other, on the heap: looked up in one go, they take half the steps. */
function pairTables(
  { heap, run }: Kernels,
  { curves }: PixelColour,
): readonly [redGreens: Pointer, blueReds: Pointer, greenBlues: Pointer] {
  const lights = new Map<Curve, Pointer>()
  const tables = new Map<string, Pointer>()
  const lightOf = (curve: Curve): Pointer =>
    lruCached(lights, curve, curves.length, () => heap.floats(Array.from({ length: 256 }, (_, code) => evaluateCurve(curve, code / 255))))
  const [red, green, blue] = mapTriple(curves, lightOf)
  const pairsOf = (first: Pointer, second: Pointer): Pointer =>
    lruCached(tables, `${first} ${second}`, curves.length, () => {
      const pairs = heap.allocate(65536 * 8)
      run.pairsOf(first, second, pairs)
      return pairs
    })
  return [pairsOf(red, green), pairsOf(blue, red), pairsOf(green, blue)]
}

/**
 * A reduced copy in linear light, every pixel the mean of those it stands for, as the resampling kernel *area* gives: codes are added up as
 * they are read, so that the picture is never held in floats. Neither side may be larger than the source's.
 */
export function areaCopy(kernels: Kernels, source: EightBitSource, size: Size): PlaneSource {
  const { heap, run } = kernels
  const { width, height } = size
  const planes = heap.scope(() => {
    const columns = endsOf(source.size.width, width)
    const rows = endsOf(source.size.height, height)
    const ends = heap.integers(columns)
    const shares = heap.floats(Float32Array.from(columns, (last, x) => 1 / (last - (x === 0 ? 0 : integerAt(columns, x - 1)))))
    const tables = pairTables(kernels, source.colour)
    const [rr, rg, rb, gr, gg, gb, br, bg, bb] = source.colour.toWorking
    const matrix = heap.floats([rr, gr, br, 0, rg, gg, bg, 0, rb, gb, bb, 0])
    const planeBytes = width * height * 4
    const copy = heap.allocate(3 * planeBytes)
    const rowBytes = source.size.width * 3
    const held = heap.allocate(Math.ceil(source.size.height / height + 1) * rowBytes)
    for (let y = 0, from = 0; y < height; y++) {
      const end = integerAt(rows, y)
      const codes = source.pixels.subarray(from * rowBytes, end * rowBytes)
      heap.u8(held, codes.length).set(codes)
      const row = copy + y * width * 4
      const to = [row, row + planeBytes, row + 2 * planeBytes] as const
      run.reduceRows8(held, rowBytes, end - from, width, ends, shares, ...tables, matrix, ...to)
      from = end
    }
    return heap.f32(copy, 3 * width * height).slice()
  })
  return { kind: 'planes', size, fullSize: fullSizeOf(source), domain: 'linear', planes }
}
