import type { Planes } from '@kernels/planes'
import type { Size } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { type Curve, evaluateCurve } from '@/colour/curve'
import type { Matrix3 } from '@/colour/matrix'
import { hasFilePrimaries, toOpponent } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import type { Domain } from '@/operations'
import type { InterleavedSource, PixelColour } from '@/pixels/picture'

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

export const fullSizeOf = (source: Source): Size => source.fullSize ?? source.size

/** What codes of a file are read into: linear light, or brightness and colour differences where they are no more than a matrix away. */
export type CodeDomain = 'linear' | 'opponent'

export const domainOfCodes = ({ toWorking }: PixelColour, wanted: Domain): CodeDomain =>
  wanted === 'opponent' && hasFilePrimaries(toWorking) ? 'opponent' : 'linear'

/** The tables `decodeRows8` and `decodeRow16` read, made once a picture. */
export interface DecodeTables {
  readonly tables: Float32Array
  readonly matrix: Float32Array
}

const cache = new WeakMap<PixelColour, Map<string, DecodeTables>>()

export function decodeTables(colour: PixelColour, bits: 8 | 16, domain: CodeDomain): DecodeTables {
  const known = cache.get(colour) ?? new Map<string, DecodeTables>()
  cache.set(colour, known)
  const key = `${bits} ${domain}`
  const made = known.get(key) ?? makeTables(colour, bits, domain)
  known.set(key, made)
  return made
}

function makeTables({ curves, toWorking }: PixelColour, bits: 8 | 16, domain: CodeDomain): DecodeTables {
  const matrix = domain === 'linear' ? toWorking : toOpponent
  const max = 2 ** bits - 1
  const value = (curve: Curve, code: number): number => {
    const light = evaluateCurve(curve, code / max)
    return domain === 'linear' ? light : srgbTransfer.encode(light)
  }
  const tables = bits === 8 ? columnTables(curves, matrix, value) : scalarTables(curves, value)
  return { tables, matrix: Float32Array.from(matrix) }
}

type CodeReader = (curve: Curve, code: number) => number

/** Per channel and code: the value times the channel's matrix column, and a zero. */
function columnTables(curves: readonly Curve[], matrix: Matrix3, read: CodeReader): Float32Array {
  const tables = new Float32Array(3 * 256 * 4)
  for (const [channel, curve] of curves.entries())
    for (let code = 0; code < 256; code++) {
      const value = read(curve, code)
      for (let row = 0; row < 3; row++) tables[(channel * 256 + code) * 4 + row] = value * numberAt(matrix, row * 3 + channel)
    }
  return tables
}

function scalarTables(curves: readonly Curve[], read: CodeReader): Float32Array {
  const tables = new Float32Array(3 * 65536)
  for (const [channel, curve] of curves.entries())
    for (let code = 0; code < 65536; code++) tables[channel * 65536 + code] = read(curve, code)
  return tables
}
