import type { Size } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { losslessJpeg } from './lossless-jpeg'

/*
 * A small writer of DNG files (DNG 1.4; TIFF/EP, ISO 12234-2; TIFF 6.0), so that the right answer is known: a mosaic of a given picture, or
 * the picture itself, with given levels, neutral and matrices.
 */

/** Colours of a mosaic, row by row from the upper left: 0 red, 1 green, 2 blue. Two by two for Bayer's, six by six for others. */
export const patterns = {
  RGGB: [0, 1, 1, 2],
  BGGR: [2, 1, 1, 0],
  GRBG: [1, 0, 2, 1],
  GBRG: [1, 2, 0, 1],
  /** Fuji's, in one of its positions (common knowledge of the trade). */
  sixBySix: [1, 2, 1, 1, 0, 1, 0, 1, 0, 2, 1, 2, 1, 2, 1, 1, 0, 1, 1, 0, 1, 1, 2, 1, 2, 1, 2, 0, 1, 0, 1, 0, 1, 1, 2, 1],
} as const

export interface DngOptions {
  readonly size: Size
  /** Camera values of a channel at a place: 0 black, 1 the sensor's end. */
  at(x: number, y: number, channel: 0 | 1 | 2): number
  readonly pattern?: keyof typeof patterns | 'linear' | 'grey'
  readonly bits?: 8 | 12 | 14 | 16
  readonly black?: number
  readonly white?: number
  readonly orientation?: number
  readonly neutral?: readonly number[]
  /** XYZ → camera under standard light A and under D65, as they stand in the file. */
  readonly matrices?: readonly (readonly number[])[]
  readonly forward?: readonly (readonly number[])[]
  readonly baselineExposure?: number
  /** Left, top, width, height. */
  readonly crop?: readonly [number, number, number, number]
  /** Packed as lossless JPEG. */
  readonly lossless?: boolean
  /** What the file says of how it is packed, if that is not so. */
  readonly compression?: number
  /** A JPEG in the first directory, the raw picture in one below it. */
  readonly preview?: Buffer
  readonly iso?: number
  readonly makerNote?: Buffer
  /** What the file says of its size, if that is not so. */
  readonly saidSize?: Size
}

type Field = readonly [tag: number, type: 1 | 2 | 3 | 4 | 5 | 7 | 10 | 12, values: readonly number[] | string | Buffer]

const bytesOfType = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 10: 8, 12: 8 } as const

function encoded([, type, values]: Field): { count: number; bytes: Buffer } {
  if (Buffer.isBuffer(values)) return { count: values.length, bytes: values }
  if (typeof values === 'string') return { count: values.length + 1, bytes: Buffer.from(`${values}\0`, 'latin1') }
  const bytes = Buffer.alloc(values.length * bytesOfType[type])
  for (const [i, value] of values.entries()) {
    if (type === 1 || type === 7) bytes.writeUInt8(value, i)
    else if (type === 3) bytes.writeUInt16LE(value, i * 2)
    else if (type === 4) bytes.writeUInt32LE(value, i * 4)
    else if (type === 5) {
      bytes.writeUInt32LE(Math.round(value * 1e6), i * 8)
      bytes.writeUInt32LE(1e6, i * 8 + 4)
    } else if (type === 10) {
      bytes.writeInt32LE(Math.round(value * 1e6), i * 8)
      bytes.writeInt32LE(1e6, i * 8 + 4)
    }
  }
  return { count: values.length, bytes }
}

/** A directory with its values behind it, to lie at `at`. */
function directory(fields: readonly Field[], at: number): Buffer {
  const sorted = fields.toSorted(([a], [b]) => a - b)
  const head = Buffer.alloc(2 + sorted.length * 12 + 4)
  const values: Buffer[] = []
  let valuesAt = at + head.length
  head.writeUInt16LE(sorted.length, 0)
  for (const [i, field] of sorted.entries()) {
    const { count, bytes } = encoded(field)
    const entry = 2 + i * 12
    head.writeUInt16LE(field[0], entry)
    head.writeUInt16LE(field[1], entry + 2)
    head.writeUInt32LE(count, entry + 4)
    if (bytes.length <= 4) bytes.copy(head, entry + 8)
    else {
      head.writeUInt32LE(valuesAt, entry + 8)
      const padded = Buffer.concat([bytes, Buffer.alloc(bytes.length % 2)])
      values.push(padded)
      valuesAt += padded.length
    }
  }
  return Buffer.concat([head, ...values])
}

const lengthOf = (fields: readonly Field[]): number => directory(fields, 0).length

/** The sensor's codes, packed as uncompressed DNG has them: 8 and 16 bits as they are, 12 and 14 bit by bit, rows at whole bytes. */
function packed(rows: readonly Uint16Array[], bits: number): Buffer {
  return Buffer.concat(
    rows.map((row) => {
      if (bits === 16) return Buffer.from(row.buffer, row.byteOffset, row.byteLength)
      const bytes = Buffer.alloc(Math.ceil((row.length * bits) / 8))
      let [held, count, at] = [0, 0, 0]
      for (const code of row) {
        held = (held << bits) | code
        count += bits
        while (count >= 8) {
          count -= 8
          bytes[at++] = (held >> count) & 255
          held &= (1 << count) - 1
        }
      }
      if (count > 0) bytes[at] = (held << (8 - count)) & 255
      return bytes
    }),
  )
}

export function dng(options: DngOptions): Buffer {
  const { size, at, pattern = 'RGGB', bits = 16, black = 0, orientation = 1, preview, makerNote } = options
  const { white = 2 ** bits - 1, neutral = [1, 1, 1], saidSize = size } = options
  const colours = pattern === 'linear' || pattern === 'grey' ? undefined : patterns[pattern]
  const across = colours ? Math.sqrt(colours.length) : 1
  const samples = pattern === 'linear' ? 3 : 1
  const code = (value: number): number => Math.max(0, Math.min(2 ** bits - 1, Math.round(black + Math.min(1, value) * (white - black))))
  const rows = Array.from({ length: size.height }, (_, y) => {
    const row = new Uint16Array(size.width * samples)
    for (let x = 0; x < size.width; x++)
      for (let sample = 0; sample < samples; sample++) {
        const channel = colours ? numberAt(colours, (y % across) * across + (x % across)) : pattern === 'grey' ? 1 : sample
        row[x * samples + sample] = code(at(x, y, channel as 0 | 1 | 2))
      }
    return row
  })
  const pixels = options.lossless ? losslessJpeg(rows, bits) : packed(rows, bits)
  const rawFields = (pixelsAt: number): Field[] => [
    [254, 4, [0]],
    [256, 4, [saidSize.width]],
    [257, 4, [saidSize.height]],
    [258, 3, Array(samples).fill(bits)],
    [259, 3, [options.compression ?? (options.lossless ? 7 : 1)]],
    [262, 3, [colours ? 32803 : 34892]],
    [273, 4, [pixelsAt]],
    [277, 3, [samples]],
    [278, 4, [saidSize.height]],
    [279, 4, [pixels.length]],
    [284, 3, [1]],
    ...(colours
      ? ([
          [33421, 3, [across, across]],
          [33422, 1, [...colours]],
          [50710, 1, [0, 1, 2]],
          [50711, 3, [1]],
        ] as Field[])
      : []),
    [50714, 4, Array(samples).fill(black)],
    [50717, 4, Array(samples).fill(white)],
    ...(options.crop
      ? ([
          [50719, 4, [options.crop[0], options.crop[1]]],
          [50720, 4, [options.crop[2], options.crop[3]]],
        ] as Field[])
      : []),
  ]
  const matrices = options.matrices ?? []
  const common = (exifAt: number): Field[] => [
    [271, 2, 'Marram Optical'],
    [272, 2, 'MO-2'],
    [274, 3, [orientation]],
    [34665, 4, [exifAt]],
    [50706, 1, [1, 4, 0, 0]],
    [50707, 1, [1, 1, 0, 0]],
    [50708, 2, 'Marram Optical MO-2'],
    ...(pattern === 'grey' ? [] : ([[50728, 5, neutral]] as Field[])),
    ...(matrices[0]
      ? ([
          [50721, 10, matrices[0]],
          [50778, 3, [matrices[1] ? 17 : 21]],
        ] as Field[])
      : []),
    ...(matrices[1]
      ? ([
          [50722, 10, matrices[1]],
          [50779, 3, [21]],
        ] as Field[])
      : []),
    ...(options.forward?.[0] ? ([[50964, 10, options.forward[0]]] as Field[]) : []),
    ...(options.forward?.[1] ? ([[50965, 10, options.forward[1]]] as Field[]) : []),
    ...(options.baselineExposure === undefined ? [] : ([[50730, 10, [options.baselineExposure]]] as Field[])),
  ]
  const exif: Field[] = [
    [33434, 5, [0.004]],
    [34855, 3, [options.iso ?? 100]],
    [36867, 2, '2026:03:14 09:30:00'],
    ...(makerNote ? ([[37500, 7, makerNote]] as Field[]) : []),
  ]
  const first = (exifAt: number, innerAt: number, pixelsAt: number, previewAt: number): Field[] =>
    preview
      ? [
          ...common(exifAt),
          [254, 4, [1]],
          [256, 4, [160]],
          [257, 4, [120]],
          [258, 3, [8, 8, 8]],
          [259, 3, [7]],
          [262, 3, [6]],
          [273, 4, [previewAt]],
          [277, 3, [3]],
          [278, 4, [120]],
          [279, 4, [preview.length]],
          [330, 4, [innerAt]],
        ]
      : [...common(exifAt), ...rawFields(pixelsAt)]
  const exifAt = 8 + lengthOf(first(0, 0, 0, 0))
  const innerAt = exifAt + lengthOf(exif)
  const previewAt = innerAt + (preview ? lengthOf(rawFields(0)) : 0)
  const pixelsAt = previewAt + (preview?.length ?? 0)
  const head = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0])
  return Buffer.concat([
    head,
    directory(first(exifAt, innerAt, pixelsAt, previewAt), 8),
    directory(exif, exifAt),
    ...(preview ? [directory(rawFields(pixelsAt), innerAt), preview] : []),
    pixels,
  ])
}
