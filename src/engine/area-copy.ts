import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { integerAt } from '@/base/numbers'
import { type Curve, evaluateCurve } from '@/colour/curve'
import type { InterleavedSource, PixelColour } from '@/pixels/picture'
import type { PlaneSource, Source } from './source'

/** A source whose codes have 8 bits. */
export type EightBitSource = InterleavedSource & { readonly pixels: Uint8Array }

export const isEightBit = (source: Source): source is EightBitSource => source.kind === 'interleaved' && source.pixels instanceof Uint8Array

/** Rows of codes that are brought to the kernels' memory at a time: about 600 kB of a picture of 24 MP. */
const heldRows = 32
/** Kernels work in whole vectors and may read this much behind the last row. */
const slackBytes = 64

/** The first sample behind each of `cells` equal parts of a length: a sample belongs to the part that its middle lies in. */
const endsOf = (length: number, cells: number): Int32Array =>
  Int32Array.from({ length: cells }, (_, cell) => Math.ceil(((cell + 1) * length) / cells - 0.5))

/** For each channel the light of every two codes together, on the heap: looked up in one go, they take half the steps. */
function pairTables({ heap, run }: Kernels, { curves }: PixelColour): readonly Pointer[] {
  const tables = new Map<Curve, Pointer>()
  return curves.map((curve) =>
    lruCached(tables, curve, curves.length, () => {
      const values = heap.floats(Array.from({ length: 256 }, (_, code) => evaluateCurve(curve, code / 255)))
      const sums = heap.allocate(65536 * 4)
      run.sumsOfTwo(values, sums)
      return sums
    }),
  )
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
    const [reds = 0, greens = 0, blues = 0] = pairTables(kernels, source.colour)
    const [rr, rg, rb, gr, gg, gb, br, bg, bb] = source.colour.toWorking
    const matrix = heap.floats([rr, gr, br, 0, rg, gg, bg, 0, rb, gb, bb, 0])
    const planeBytes = width * height * 4
    const copy = heap.allocate(3 * planeBytes)
    const sums = heap.allocate(width * 16)
    const rowBytes = source.size.width * 3
    const pairs = heap.allocate(2 * rowBytes + slackBytes)
    const held = heap.allocate(heldRows * rowBytes + slackBytes)
    let brought = 0
    for (let to = 0, y = 0; to < height; to++) {
      heap.f32(sums, width * 4).fill(0)
      const [from, end] = [y, integerAt(rows, to)]
      while (y < end) {
        if (y === brought) {
          const next = source.pixels.subarray(y * rowBytes, (y + heldRows) * rowBytes)
          heap.u8(held, next.length).set(next)
          brought += heldRows
        }
        // A row that has none below it, in its cell or of those brought, is taken twice by half.
        const together = Math.min(2, end - y, brought - y)
        const upper = held + (y + heldRows - brought) * rowBytes
        const lower = upper + (together - 1) * rowBytes
        run.sumCells8(upper, lower, width, ends, reds, greens, blues, together / 2, pairs, sums)
        y += together
      }
      const row = copy + to * width * 4
      run.meansOfCells(sums, width, shares, 1 / (end - from), matrix, row, row + planeBytes, row + 2 * planeBytes)
    }
    return heap.f32(copy, 3 * width * height).slice()
  })
  return { kind: 'planes', size, fullSize: source.size, domain: 'linear', planes }
}
