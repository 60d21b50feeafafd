import type { LookTable } from '@/colour/cube'
import type { Asset } from '@/pixels/kept-file'
import type { InterleavedSource, PictureFacts } from '@/pixels/picture'

/*
 * How numbers travel: the length of the header (4 bytes, little-endian), the header as JSON, padded with spaces so that
 * what follows starts at a multiple of four, and the numbers as they lie in memory (little-endian).
 */

/** What is said of pixels before them; the numbers of `InterleavedSource`, without them. */
export interface PixelHeader extends Omit<InterleavedSource, 'pixels' | 'alpha' | 'kind'> {
  readonly bits: 8 | 16
  /** Opacity follows the pixels, one value each. */
  readonly hasOpacity: boolean
  readonly facts: PictureFacts
}

/** What is said of a kept file before its numbers. */
export type KeptFileHeader =
  | Omit<Extract<Asset, { kind: 'image' }>, 'pixels'>
  | { readonly kind: 'look'; readonly look: Omit<LookTable, 'values'> }
  | { readonly kind: 'font' }

const lengthBytes = 4

export function framed(header: unknown, parts: readonly ArrayBufferView[]): Uint8Array<ArrayBuffer> {
  const text = new TextEncoder().encode(JSON.stringify(header))
  const headerBytes = Math.ceil(text.length / 4) * 4
  let at = lengthBytes + headerBytes
  const result = new Uint8Array(at + parts.reduce((sum, part) => sum + part.byteLength, 0))
  new DataView(result.buffer).setUint32(0, headerBytes, true)
  result.fill(0x20, lengthBytes, at).set(text, lengthBytes)
  for (const { buffer, byteOffset, byteLength } of parts) {
    result.set(new Uint8Array(buffer, byteOffset, byteLength), at)
    at += byteLength
  }
  return result
}

/** @returns the header as it was said, and where in the buffer the numbers begin */
export function unframed<Header>(buffer: ArrayBuffer): { readonly header: Header; readonly at: number } {
  const headerBytes = new DataView(buffer).getUint32(0, true)
  return {
    header: JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, lengthBytes, headerBytes))),
    at: lengthBytes + headerBytes,
  }
}
