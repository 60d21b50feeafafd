/** Bytes of one value by its type (CIPA DC-008, 4.6.2; 6, 8, 11, 12 and 13 as TIFF has them). */
const valueBytes: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4 }
const shortType = 3
export const entryBytes = 12
/** More directories than this point at each other in circles. */
export const maxDirectories = 64

export interface Entry {
  readonly tag: number
  readonly type: number
  readonly count: number
  /** Where it stands in the bytes. */
  readonly at: number
}

interface ByteOrder {
  /** Offsets in the block count from here. */
  readonly origin: number
  readonly little: boolean
}

/** A TIFF, or EXIF as one, whose directories can be walked. Every access may throw a RangeError: the block is then not what it says. */
export class TiffBlock {
  protected readonly view: DataView
  readonly origin: number
  readonly little: boolean
  protected constructor(
    readonly bytes: Buffer,
    { origin, little }: ByteOrder,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
    this.origin = origin
    this.little = little
  }

  protected static orderOf(bytes: Buffer): ByteOrder | undefined {
    const origin = bytes.toString('latin1', 0, 6) === 'Exif\0\0' ? 6 : 0
    const order = bytes.toString('latin1', origin, origin + 2)
    return order === 'II' || order === 'MM' ? { origin, little: order === 'II' } : undefined
  }

  static open(bytes: Buffer): TiffBlock | undefined {
    const order = TiffBlock.orderOf(bytes)
    return order && new TiffBlock(bytes, order)
  }

  u16 = (at: number): number => this.view.getUint16(at, this.little)
  u32 = (at: number): number => this.view.getUint32(at, this.little)

  /** The first directory, as a place in the bytes. */
  get first(): number {
    return this.origin + this.u32(this.origin + 4)
  }

  entries(directory: number): Entry[] {
    return Array.from({ length: this.u16(directory) }, (_, i) => {
      const at = directory + 2 + i * entryBytes
      return { tag: this.u16(at), type: this.u16(at + 2), count: this.u32(at + 4), at }
    })
  }

  find(directory: number, tag: number): Entry | undefined {
    return this.entries(directory).find((entry) => entry.tag === tag)
  }

  /** Where a directory ends: the link to the next one. */
  linkOf = (directory: number): number => directory + 2 + this.u16(directory) * entryBytes

  /** The bytes of an entry's value, in the entry itself or elsewhere. */
  valueOf({ type, count, at }: Entry): readonly [from: number, to: number] {
    const length = (valueBytes[type] ?? 1) * count
    const from = length > 4 ? this.origin + this.u32(at + 8) : at + 8
    return [from, from + length]
  }

  /** One number of an entry's value. */
  numberOf(entry: Entry, index = 0): number {
    const [from] = this.valueOf(entry)
    return entry.type === shortType ? this.u16(from + index * 2) : this.u32(from + index * 4)
  }

  /** Directories that an entry leads to. */
  pointedTo(entry: Entry): number[] {
    return Array.from({ length: Math.min(entry.count, maxDirectories) }, (_, i) => this.origin + this.numberOf(entry, i))
  }
}
