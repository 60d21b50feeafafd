import type { Kernels } from '@kernels/binding'
import type { Size } from '@/base/geometry'
import { doubleAt, floatAt, integerAt } from '@/base/numbers'
import type { InterleavedSource } from '@/pixels/picture'
import { decodeTables, type PlaneSource, type Source } from './source'

/** A source whose codes have 8 bits. */
export type EightBitSource = InterleavedSource & { readonly pixels: Uint8Array }

export const isEightBit = (source: Source): source is EightBitSource => source.kind === 'interleaved' && source.pixels instanceof Uint8Array

/** Rows of codes that are brought to the kernels' memory at a time: about 600 kB of a picture of 24 MP. */
const heldRows = 32

/** The first sample behind each of `cells` equal parts of a length: a sample belongs to the part that its middle lies in. */
const endsOf = (length: number, cells: number): Int32Array =>
  Int32Array.from({ length: cells }, (_, cell) => Math.ceil(((cell + 1) * length) / cells - 0.5))

/**
 * A reduced copy in linear light, every pixel the mean of those it stands for, as the resampling kernel *area* gives: codes are added up as
 * they are read, so that the picture is never held in floats. Neither side may be larger than the source's.
 */
export function areaCopy({ heap, run }: Kernels, source: EightBitSource, size: Size): PlaneSource {
  const { width, height } = size
  const planes = new Float32Array(3 * width * height)
  heap.scope(() => {
    const columns = endsOf(source.size.width, width)
    const rows = endsOf(source.size.height, height)
    const ends = heap.integers(columns)
    const shares = Float64Array.from(columns, (last, x) => 1 / (last - (x === 0 ? 0 : integerAt(columns, x - 1))))
    const tables = heap.floats(decodeTables(source.colour, 8, 'linear').tables)
    const rowBytes = source.size.width * 3
    const rowsHeld = Math.min(heldRows, source.size.height)
    const held = heap.allocate(rowsHeld * rowBytes)
    const sums = heap.allocate(width * 16)
    let y = 0
    for (let to = 0; to < height; to++) {
      heap.f32(sums, width * 4).fill(0)
      const [from, end] = [y, integerAt(rows, to)]
      for (; y < end; y++) {
        const place = y % rowsHeld
        if (place === 0) {
          const next = source.pixels.subarray(y * rowBytes, (y + rowsHeld) * rowBytes)
          heap.u8(held, next.length).set(next)
        }
        run.sumCells8(held + place * rowBytes, width, ends, tables, sums)
      }
      const floats = heap.f32(sums, width * 4)
      for (const channel of [0, 1, 2])
        for (let x = 0, at = (channel * height + to) * width; x < width; x++, at++)
          planes[at] = (floatAt(floats, x * 4 + channel) * doubleAt(shares, x)) / (end - from)
    }
  })
  return { kind: 'planes', size, fullSize: source.size, domain: 'linear', planes }
}
