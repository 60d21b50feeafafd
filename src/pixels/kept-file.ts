import type { Size } from '@/base/geometry'
import type { LookTable } from '@/colour/cube'

/** A file that a macro needs, as it is used: pixels of a stamp, the table of a look, a face to set text in. */
export type Asset =
  | {
      readonly kind: 'image'
      readonly size: Size /** Interleaved RGBA, 8 bit, sRGB, alpha not multiplied in. */
      readonly pixels: Uint8Array
    }
  | { readonly kind: 'look'; readonly look: LookTable }
  | { readonly kind: 'font'; readonly bytes: ArrayBuffer }

/** What a macro says of such a file: its SHA-256, and the name it came with. Empty: none chosen yet. */
export const keptFilePattern = /^(|[0-9a-f]{64}\/[^/\\]{1,120})$/

export const keptFileHash = (value: string): string => value.slice(0, 64)
export const keptFileName = (value: string): string => value.slice(65)
