import type { Planes } from '@kernels/planes'
import { evaluateCurve } from '@/core/colour/curve'
import type { Size } from '@/core/geometry'
import type { InterleavedSource, PixelColour } from '@/core/picture'
import type { Domain } from '@/operations'

/** A frame that was rendered before: three planes of floats, one behind the other, rows without gaps. */
export interface PlaneSource {
  readonly kind: 'planes'
  /** Size in its own pixels. */
  readonly size: Size
  /** Size of the full picture it stands for. */
  readonly fullSize: Size
  readonly domain: Domain
  readonly planes: Float32Array
}

/** The same in the kernels' memory, for as long as somebody holds it there: what only reads it, reads it where it lies. */
export interface HeldSource extends Omit<PlaneSource, 'kind' | 'planes'> {
  readonly kind: 'held'
  readonly planes: Planes
}

export type Source = InterleavedSource | PlaneSource | HeldSource

export const fullSizeOf = (source: Source): Size => (source.kind === 'interleaved' ? source.size : source.fullSize)

/** The tables `decodeRow8` and `decodeRow16` read, made once a picture. */
export interface DecodeTables {
  readonly tables: Float32Array
  readonly matrix: Float32Array
}

const cache = new WeakMap<PixelColour, Map<8 | 16, DecodeTables>>()

export function decodeTables(colour: PixelColour, bits: 8 | 16): DecodeTables {
  const byBits = cache.get(colour) ?? new Map<8 | 16, DecodeTables>()
  cache.set(colour, byBits)
  const known = byBits.get(bits)
  if (known) return known
  const matrix = Float32Array.from(colour.toWorking)
  const made = { tables: bits === 8 ? columnTables(colour) : scalarTables(colour), matrix }
  byBits.set(bits, made)
  return made
}

/** Per channel and code: the linear value times the channel's matrix column, and a zero. */
function columnTables({ curves, toWorking }: PixelColour): Float32Array {
  const tables = new Float32Array(3 * 256 * 4)
  curves.forEach((curve, channel) => {
    for (let code = 0; code < 256; code++) {
      const linear = evaluateCurve(curve, code / 255)
      for (let row = 0; row < 3; row++) tables[(channel * 256 + code) * 4 + row] = linear * (toWorking[row * 3 + channel] as number)
    }
  })
  return tables
}

function scalarTables({ curves }: PixelColour): Float32Array {
  const tables = new Float32Array(3 * 65536)
  curves.forEach((curve, channel) => {
    for (let code = 0; code < 65536; code++) tables[channel * 65536 + code] = evaluateCurve(curve, code / 65535)
  })
  return tables
}
