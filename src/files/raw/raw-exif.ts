import sharp from 'sharp'
import { type Entry, TiffBlock } from '../metadata/tiff-block'
import type { RawMetadata } from './metadata'

/*
 * What a raw file tells of how it was taken, as an EXIF block of its own. From a file that is a TIFF, entries are taken over byte by byte
 * (CIPA DC-008-2023, 4.6; TIFF 6.0); for others, what the decoder read is written anew. Maker's notes stay behind: their offsets count
 * from the file's start.
 */

/** Entries of the first directory that tell of the picture, not of how its pixels lie. */
const described: ReadonlySet<number> = new Set([0x010e, 0x010f, 0x0110, 0x0131, 0x0132, 0x013b, 0x8298])
const [exifPointer, gpsPointer, makerNote, interoperability] = [0x8769, 0x8825, 0x927c, 0xa005]
const [xmpTag, iptcTag] = [0x02bc, 0x83bb]
const longType = 4
/** More than this is no description. */
const maxValueBytes = 1 << 16
const maxTextBytes = 1 << 24

/** An entry that is taken over. */
interface Taken extends Omit<Entry, 'at'> {
  readonly value: Buffer
}

export interface RawCarried {
  readonly exif?: Buffer
  readonly iptc?: Buffer
  readonly xmp?: Buffer
}

/** The description of a raw file that is a TIFF; empty where it can't be read. */
export function carriedByTiff(file: Buffer): RawCarried {
  const tiff = TiffBlock.open(file)
  if (!tiff) return {}
  const taken = (directory: number, wanted: (tag: number) => boolean): Taken[] =>
    tiff
      .entries(directory)
      .filter(({ tag }) => wanted(tag))
      .flatMap((entry): Taken[] => {
        const [from, to] = tiff.valueOf(entry)
        const most = entry.tag === xmpTag || entry.tag === iptcTag ? maxTextBytes : maxValueBytes
        return to - from > most || to > file.length ? [] : [{ ...entry, value: file.subarray(from, to) }]
      })
  const within = (pointer: number): Taken[] => {
    const entry = tiff.find(tiff.first, pointer)
    return entry ? taken(tiff.numberOf(entry), (tag) => tag !== makerNote && tag !== interoperability) : []
  }
  try {
    const texts = taken(tiff.first, (tag) => tag === xmpTag || tag === iptcTag)
    const textOf = (wanted: number): Buffer | undefined => copyOf(texts.find(({ tag }) => tag === wanted)?.value)
    const inner = [exifPointer, gpsPointer].map((pointer) => ({ pointer, entries: within(pointer) }))
    return {
      exif: block(
        tiff.little,
        taken(tiff.first, (tag) => described.has(tag)),
        inner,
      ),
      xmp: textOf(xmpTag),
      iptc: textOf(iptcTag),
    }
  } catch (error) {
    if (error instanceof RangeError) return {}
    throw error
  }
}

const copyOf = (bytes: Buffer | undefined): Buffer | undefined => bytes && Buffer.from(bytes)

/** A TIFF of directories alone: the first, and those that it leads to. */
function block(little: boolean, own: readonly Taken[], inner: readonly { pointer: number; entries: readonly Taken[] }[]): Buffer {
  const led = inner.filter(({ entries }) => entries.length > 0)
  const out: Buffer[] = []
  let end = 8
  const number = (bytes: 2 | 4, value: number): Buffer => {
    const buffer = Buffer.alloc(bytes)
    if (bytes === 2) little ? buffer.writeUInt16LE(value) : buffer.writeUInt16BE(value)
    else little ? buffer.writeUInt32LE(value) : buffer.writeUInt32BE(value)
    return buffer
  }
  /** Lays a directory behind what is there, its values behind it. @returns where it lies */
  const lay = (entries: readonly Taken[]): number => {
    const at = end
    let valuesAt = at + 2 + entries.length * 12 + 4
    const heads: Buffer[] = []
    const values: Buffer[] = []
    for (const { tag, type, count, value } of entries.toSorted((a, b) => a.tag - b.tag)) {
      const inline = value.length <= 4
      heads.push(
        number(2, tag),
        number(2, type),
        number(4, count),
        inline ? Buffer.concat([value, Buffer.alloc(4 - value.length)]) : number(4, valuesAt),
      )
      if (inline) continue
      const padded = value.length % 2 === 0 ? value : Buffer.concat([value, Buffer.alloc(1)])
      values.push(padded)
      valuesAt += padded.length
    }
    out.push(number(2, entries.length), ...heads, number(4, 0), ...values)
    end = valuesAt
    return at
  }
  const pointers = led.map(({ pointer, entries }) => ({ tag: pointer, type: longType, count: 1, value: number(4, lay(entries)) }))
  const first = lay([...own, ...pointers])
  return Buffer.concat([Buffer.from(little ? 'II' : 'MM'), number(2, 42), number(4, first), ...out])
}

const fraction = (value: number): string => (value >= 1 ? `${Math.round(value * 1000)}/1000` : `1/${Math.max(1, Math.round(1 / value))}`)

/** The same from what the decoder read, for files that are no TIFF. */
export async function exifFromMetadata(metadata: RawMetadata): Promise<Buffer | undefined> {
  const { camera_make, camera_model, iso_speed, shutter, aperture, focal_len, timestamp, desc, artist, lens } = metadata
  const text = (tag: string, value: string): Record<string, string> => (value.trim() ? { [tag]: value.trim() } : {})
  const ratio = (tag: string, value: number): Record<string, string> => (value > 0 ? { [tag]: fraction(value) } : {})
  const taken = timestamp > 0 ? new Date(timestamp * 1000).toISOString().slice(0, 19).replace(/-/g, ':').replace('T', ' ') : ''
  const block = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#000' } })
    .withExif({
      IFD0: { ...text('Make', camera_make), ...text('Model', camera_model), ...text('ImageDescription', desc), ...text('Artist', artist) },
      IFD2: {
        ...(iso_speed > 0 ? { ISOSpeedRatings: String(Math.round(iso_speed)) } : {}),
        ...ratio('ExposureTime', shutter),
        ...ratio('FNumber', aperture),
        ...ratio('FocalLength', focal_len),
        ...text('DateTimeOriginal', taken),
        ...text('LensModel', lens.Lens),
      },
    })
    .jpeg()
    .toBuffer()
  return (await sharp(block).metadata()).exif
}
