import { type Curve, srgbCurve } from '@/colour/curve'
import { d50ToD65 } from '@/colour/lab'
import { invert, type Matrix3, multiply } from '@/colour/matrix'
import { adaptWhite, type ColourSpace, d50Pcs, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import type { PixelColour } from '@/pixels/picture'

/*
 * ICC profiles of the matrix/TRC kind, read and written. Offsets and encodings after ICC.1:2022 (v4.4);
 * version 2 profiles are read by the same rules.
 */

const headerBytes = 128
const s15Fixed16 = (bytes: DataView, at: number): number => bytes.getInt32(at) / 65536

function readTags(view: DataView): Map<string, { at: number; length: number }> {
  const tags = new Map<string, { at: number; length: number }>()
  const count = Math.min(view.getUint32(headerBytes), 100)
  for (let i = 0; i < count; i++) {
    const entry = headerBytes + 4 + i * 12
    tags.set(signature(view, entry), { at: view.getUint32(entry + 4), length: view.getUint32(entry + 8) })
  }
  return tags
}

const signature = (view: DataView, at: number): string =>
  String.fromCharCode(view.getUint8(at), view.getUint8(at + 1), view.getUint8(at + 2), view.getUint8(at + 3))

/** Number of parameters of tag type para functions 0–4 (ICC.1:2022, table 68). */
const parametricCounts = [1, 3, 4, 5, 7] as const

function readCurve(view: DataView, at: number): Curve | undefined {
  const kind = signature(view, at)
  if (kind === 'para') {
    const type = view.getUint16(at + 8)
    const count = parametricCounts[type as 0]
    if (count === undefined) return undefined
    const parameters = Array.from({ length: count }, (_, i) => s15Fixed16(view, at + 12 + i * 4))
    return { kind: 'parametric', type: type as 0, parameters }
  }
  if (kind !== 'curv') return undefined
  const count = view.getUint32(at + 8)
  if (count === 0) return { kind: 'gamma', exponent: 1 }
  if (count === 1) return { kind: 'gamma', exponent: view.getUint16(at + 12) / 256 }
  return { kind: 'table', values: Array.from({ length: count }, (_, i) => view.getUint16(at + 12 + i * 2) / 65535) }
}

/**
 * The colour that a matrix/TRC RGB profile declares, or undefined for every other kind (tables, CMYK, grey,
 * damaged), which goes through libvips' colour management instead.
 */
export function readMatrixProfile(profile: Uint8Array): PixelColour | undefined {
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength)
  try {
    if (signature(view, 16) !== 'RGB ' || signature(view, 20) !== 'XYZ ') return undefined
    const tags = readTags(view)
    if (tags.has('A2B0')) return undefined
    const columns = ['rXYZ', 'gXYZ', 'bXYZ'].map((tag) => {
      const at = (tags.get(tag)?.at ?? Number.NaN) + 8
      return [s15Fixed16(view, at), s15Fixed16(view, at + 4), s15Fixed16(view, at + 8)] as const
    })
    const curves = ['rTRC', 'gTRC', 'bTRC'].map((tag) => readCurve(view, tags.get(tag)?.at ?? Number.NaN))
    const [r, g, b] = columns
    const [red, green, blue] = curves
    if (!r || !g || !b || !red || !green || !blue) return undefined
    const toPcs: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]]
    const toWorking = multiply(invert(rgbToXyz(workingSpace)), multiply(d50ToD65, toPcs))
    return { curves: [red, green, blue], toWorking }
  } catch (error) {
    if (error instanceof RangeError) return undefined
    throw error
  }
}

class Writer {
  private readonly bytes: number[] = []
  get length(): number {
    return this.bytes.length
  }
  text(value: string): this {
    for (const character of value) this.bytes.push(character.charCodeAt(0))
    return this
  }
  u16(value: number): this {
    this.bytes.push((value >> 8) & 255, value & 255)
    return this
  }
  u32(value: number): this {
    return this.u16(value >>> 16).u16(value & 65535)
  }
  fixed(value: number): this {
    return this.u32(Math.round(value * 65536) >>> 0)
  }
  zeros(count: number): this {
    for (let i = 0; i < count; i++) this.bytes.push(0)
    return this
  }
  align(): this {
    return this.zeros((4 - (this.bytes.length % 4)) % 4)
  }
  append(other: Uint8Array): this {
    for (const byte of other) this.bytes.push(byte)
    return this
  }
  get result(): Uint8Array {
    return Uint8Array.from(this.bytes)
  }
}

const xyzTag = (x: number, y: number, z: number): Uint8Array => new Writer().text('XYZ ').zeros(4).fixed(x).fixed(y).fixed(z).result

/** multiLocalizedUnicodeType with one English record (ICC.1:2022, 10.15). */
function textTag(text: string): Uint8Array {
  const writer = new Writer()
    .text('mluc')
    .zeros(4)
    .u32(1)
    .u32(12)
    .text('enUS')
    .u32(text.length * 2)
    .u32(28)
  for (const character of text) writer.u16(character.charCodeAt(0))
  return writer.result
}

/** Type para, function 0 or 3 (ICC.1:2022, 10.18). */
function curveTag(curve: Curve): Uint8Array {
  if (curve.kind !== 'parametric') throw new TypeError('Only parametric curves are written')
  const writer = new Writer().text('para').zeros(4).u16(curve.type).u16(0)
  for (const parameter of curve.parameters) writer.fixed(parameter)
  return writer.result
}

/** Dated as the profile's design, not its making: the same space gives the same bytes. */
const profileDate = [2026, 11, 25, 0, 0, 0] as const

/**
 * Builds a v4 display profile of a matrix/TRC space: primaries adapted to the D50 connection space by the
 * linear Bradford transform, the matrix kept in `chad`. About 500 bytes.
 */
export function buildMatrixProfile(space: ColourSpace): Uint8Array {
  const toD50 = adaptWhite(xyzOfChromaticity(space.white), d50Pcs)
  const matrix = multiply(toD50, rgbToXyz(space))
  const curve = curveTag(space.transfer.curve)
  const adaptation = new Writer().text('sf32').zeros(4)
  for (const value of toD50) adaptation.fixed(value)
  return assemble('RGB ', [
    ...commonTags(space.name),
    ['chad', adaptation.result],
    ['rXYZ', xyzTag(matrix[0], matrix[3], matrix[6])],
    ['gXYZ', xyzTag(matrix[1], matrix[4], matrix[7])],
    ['bXYZ', xyzTag(matrix[2], matrix[5], matrix[8])],
    ['rTRC', curve],
    ['gTRC', curve],
    ['bTRC', curve],
  ])
}

/** A v4 profile of greys with the transfer of sRGB: what libvips and browsers take for plain grey. */
export const buildGreyProfile = (): Uint8Array => assemble('GRAY', [...commonTags('Grey, sRGB transfer'), ['kTRC', curveTag(srgbCurve)]])

type Tag = readonly [signature: string, bytes: Uint8Array]

const commonTags = (name: string): Tag[] => [
  ['desc', textTag(name)],
  ['cprt', textTag('No copyright, use freely')],
  ['wtpt', xyzTag(...d50Pcs)],
]

/** Header, tag table and tags; equal tags are stored once. */
function assemble(colourSpace: 'RGB ' | 'GRAY', tags: readonly Tag[]): Uint8Array {
  const table = new Writer().u32(tags.length)
  const data = new Writer()
  const placed = new Map<Uint8Array, number>()
  const dataStart = headerBytes + 4 + tags.length * 12
  for (const [name, bytes] of tags) {
    if (!placed.has(bytes)) {
      data.align()
      placed.set(bytes, dataStart + data.length)
      data.append(bytes)
    }
    table
      .text(name)
      .u32(placed.get(bytes) ?? 0)
      .u32(bytes.length)
  }
  data.align()
  return profileHeader(dataStart + data.length, colourSpace)
    .append(table.result)
    .append(data.result).result
}

/** ICC.1:2022, 7.2. */
function profileHeader(sizeBytes: number, colourSpace: 'RGB ' | 'GRAY'): Writer {
  const header = new Writer().u32(sizeBytes).zeros(4).u32(0x04400000).text(`mntr${colourSpace}XYZ `)
  for (const part of profileDate) header.u16(part)
  return header.text('acsp').zeros(24).u32(1).fixed(0.9642).fixed(1).fixed(0.8249).zeros(48)
}
