import type { Heap, Pointer } from '@kernels/heap'
import type { Size } from '@/base/geometry'

/** Interleaved codes of 8 or 16 bits, three or four to a pixel. */
export interface Codes {
  readonly size: Size
  readonly values: Uint8Array | Uint8ClampedArray | Uint16Array
  readonly channels: number
}

/** Whether codes have 16 bits, as kernels are told. */
export const isWide = ({ values }: Codes): 0 | 1 => (values.BYTES_PER_ELEMENT === 2 ? 1 : 0)

export const pixelBytesOf = ({ values, channels }: Codes): number => values.BYTES_PER_ELEMENT * channels

/** Brings rows of codes to a place on the heap, as they lie. */
export function bringRows(heap: Heap, { size, values, channels }: Codes, y: number, rows: number, target: Pointer): void {
  const rowLength = size.width * channels
  const wanted = values.subarray(y * rowLength, (y + rows) * rowLength)
  heap.u8(target, wanted.byteLength).set(new Uint8Array(wanted.buffer, wanted.byteOffset, wanted.byteLength))
}
