/*
 * The few changes a delivered picture's EXIF block needs (CIPA DC-008-2023, 4.6). They are made in place, so that no
 * offset changes, those inside a camera maker's own notes among them. What is taken out is blanked, not only unlinked:
 * no program finds it by looking through the bytes.
 */

import { type Entry, entryBytes, maxDirectories, TiffBlock } from './tiff-block'

const tags = {
  imageDescription: 0x010e,
  stripOffsets: 0x0111,
  orientation: 0x0112,
  stripByteCounts: 0x0117,
  artist: 0x013b,
  subDirectories: 0x014a,
  thumbnailOffset: 0x0201,
  thumbnailBytes: 0x0202,
  xmp: 0x02bc,
  copyright: 0x8298,
  iim: 0x83bb,
  imageResources: 0x8649,
  exifDirectory: 0x8769,
  gpsDirectory: 0x8825,
  makerNote: 0x927c,
  pixelWidth: 0xa002,
  pixelHeight: 0xa003,
  interoperability: 0xa005,
} as const

const [shortType, asciiType] = [3, 2]

/** A block that can be changed in place. */
class ExifBlock extends TiffBlock {
  static override open(bytes: Buffer): ExifBlock | undefined {
    const order = TiffBlock.orderOf(bytes)
    return order && new ExifBlock(bytes, order)
  }

  writeU16 = (at: number, value: number): void => this.view.setUint16(at, value, this.little)
  writeU32 = (at: number, value: number): void => this.view.setUint32(at, value, this.little)

  setNumber(entry: Entry, value: number): void {
    if (entry.type === shortType) this.writeU16(entry.at + 8, Math.min(value, 65535))
    else this.writeU32(entry.at + 8, value)
  }

  blank(from: number, to: number): void {
    if (from >= this.origin + 8) this.bytes.fill(0, from, Math.min(to, this.bytes.length))
  }

  /** Blanks a directory with all that it holds and leads to. */
  blankDirectory(directory: number, seen = new Set<number>()): void {
    if (seen.has(directory) || seen.size >= maxDirectories) return
    seen.add(directory)
    const entries = this.entries(directory)
    this.blankPixels(entries, tags.thumbnailOffset, tags.thumbnailBytes)
    this.blankPixels(entries, tags.stripOffsets, tags.stripByteCounts)
    for (const entry of entries) {
      if (pointers.has(entry.tag)) for (const inner of this.pointedTo(entry)) this.blankDirectory(inner, seen)
      this.blank(...this.valueOf(entry))
    }
    this.blank(directory, directory + 2 + entries.length * entryBytes + 4)
  }

  private blankPixels(entries: readonly Entry[], offsetTag: number, lengthTag: number): void {
    const [offsets, lengths] = [offsetTag, lengthTag].map((tag) => entries.find((entry) => entry.tag === tag))
    if (!offsets || !lengths) return
    for (let i = 0; i < Math.min(offsets.count, lengths.count); i++) {
      const from = this.origin + this.numberOf(offsets, i)
      this.blank(from, from + this.numberOf(lengths, i))
    }
  }

  /** Takes an entry out of its directory, with its value and what it leads to. */
  remove(directory: number, tag: number): void {
    const entry = this.find(directory, tag)
    if (!entry) return
    if (pointers.has(tag)) for (const inner of this.pointedTo(entry)) this.blankDirectory(inner)
    this.blank(...this.valueOf(entry))
    const end = this.linkOf(directory) + 4
    this.bytes.copyWithin(entry.at, entry.at + entryBytes, end)
    this.bytes.fill(0, end - entryBytes, end)
    this.writeU16(directory, this.u16(directory) - 1)
  }

  /** All directories that belong to the picture itself: the first, and those that it leads to. */
  ownDirectories(): number[] {
    const found = new Set<number>()
    const visit = (directory: number): void => {
      if (found.has(directory) || found.size >= maxDirectories) return
      found.add(directory)
      for (const entry of this.entries(directory))
        if (entry.tag === tags.exifDirectory || entry.tag === tags.interoperability) for (const inner of this.pointedTo(entry)) visit(inner)
    }
    visit(this.first)
    return [...found]
  }
}

/** Entries whose value is the place of another directory. */
const pointers: ReadonlySet<number> = new Set([tags.exifDirectory, tags.gpsDirectory, tags.interoperability, tags.subDirectories])

/** A changed copy of a block. One that can't be read is dropped: undefined. */
function changed(exif: Buffer, change: (block: ExifBlock) => void): Buffer | undefined {
  const block = ExifBlock.open(Buffer.from(exif))
  if (!block) return undefined
  try {
    change(block)
    return block.bytes
  } catch (error) {
    if (error instanceof RangeError) return undefined
    throw error
  }
}

/** Other blocks inside this one, which say the same in another way and are carried by themselves. */
const enclosed = [tags.xmp, tags.iim, tags.imageResources, tags.subDirectories] as const

/**
 * A copy of an EXIF block for an upright picture of the given size: orientation 1, new pixel dimensions, no small
 * picture of how it was before, wherever one may lie. A block that can't be read is dropped: undefined.
 */
export function uprightExif(exif: Buffer, width: number, height: number): Buffer | undefined {
  return changed(exif, (block) => {
    for (const directory of block.ownDirectories()) {
      for (const entry of block.entries(directory)) {
        if (entry.tag === tags.orientation) block.setNumber(entry, 1)
        if (entry.tag === tags.pixelWidth) block.setNumber(entry, width)
        if (entry.tag === tags.pixelHeight) block.setNumber(entry, height)
      }
      for (const tag of enclosed) block.remove(directory, tag)
      const notes = block.find(directory, tags.makerNote)
      if (notes && holdsPicture(block.bytes.subarray(...block.valueOf(notes)))) block.remove(directory, tags.makerNote)
    }
    // The directories that follow the first describe the small picture.
    const link = block.linkOf(block.first)
    for (let next = block.u32(link), i = 0; next !== 0 && i < maxDirectories; i++) {
      const directory = block.origin + next
      next = block.u32(block.linkOf(directory))
      block.blankDirectory(directory)
    }
    block.writeU32(link, 0)
  })
}

/** Whether bytes hold a JPEG. */
const holdsPicture = (bytes: Buffer): boolean => bytes.includes(Buffer.from([0xff, 0xd8, 0xff]))

/**
 * A copy that does not say where the picture was taken: without the directory of coordinates, and without the camera
 * maker's own notes, in which some write places. A block that can't be read is dropped: undefined.
 */
export function withoutExifLocation(exif: Buffer): Buffer | undefined {
  return changed(exif, (block) => {
    for (const directory of block.ownDirectories())
      for (const tag of [tags.gpsDirectory, tags.makerNote, ...enclosed]) block.remove(directory, tag)
  })
}

const textTags = { description: tags.imageDescription, creator: tags.artist, rights: tags.copyright } as const

/** A block with nothing in it. */
const emptyBlock = (): Buffer => Buffer.from('II*\0\x08\0\0\0\0\0\0\0\0\0', 'latin1')

/**
 * A block with texts of its first directory written anew. What else stands in the block stays where it is: the new
 * directory and its texts are put behind it, and the old ones are blanked. Without a block to begin with, a new one.
 */
export function exifWith(exif: Buffer | undefined, texts: Partial<Record<keyof typeof textTags, string>>): Buffer | undefined {
  const wanted = Object.entries(texts).flatMap(([field, line]) => (line ? [[textTags[field as keyof typeof textTags], line] as const] : []))
  if (wanted.length === 0) return exif
  const block = ExifBlock.open(Buffer.from(exif ?? emptyBlock()))
  if (!block) return exifWith(undefined, texts)
  try {
    const { bytes: base, origin } = block
    const first = block.first
    const kept: { tag: number; bytes: Buffer }[] = []
    for (const entry of block.entries(first))
      if (wanted.some(([tag]) => tag === entry.tag)) block.blank(...block.valueOf(entry))
      else kept.push({ tag: entry.tag, bytes: Buffer.from(base.subarray(entry.at, entry.at + entryBytes)) })
    const next = block.u32(block.linkOf(first))
    const start = base.length + (base.length & 1)
    const entries = kept.length + wanted.length
    let textAt = start + 2 + entries * entryBytes + 4 - origin
    const added = wanted.map(([tag, line]) => {
      const made = textEntry(block, tag, line, textAt)
      textAt += made.far.length
      return made
    })
    block.blank(first, block.linkOf(first) + 4)
    block.writeU32(origin + 4, start - origin)
    const directory = [...kept, ...added].sort((a, b) => a.tag - b.tag).map(({ bytes }) => bytes)
    const padding = Buffer.alloc(base.length & 1)
    const parts = [base, padding, block16(block, entries), ...directory, block32(block, next), ...added.map(({ far }) => far)]
    return Buffer.concat(parts)
  } catch (error) {
    if (error instanceof RangeError) return exifWith(undefined, texts)
    throw error
  }
}

function numberBytes(block: ExifBlock, value: number, length: 2 | 4): Buffer {
  const bytes = Buffer.alloc(length)
  if (block.little) bytes.writeUIntLE(value, 0, length)
  else bytes.writeUIntBE(value, 0, length)
  return bytes
}
const block16 = (block: ExifBlock, value: number): Buffer => numberBytes(block, value, 2)
const block32 = (block: ExifBlock, value: number): Buffer => numberBytes(block, value, 4)

/** An entry of text. Texts of up to four bytes, end included, stand in the entry itself; longer ones are reached by an offset. */
function textEntry(block: ExifBlock, tag: number, line: string, offset: number): { tag: number; bytes: Buffer; far: Buffer } {
  const text = Buffer.from(`${line}\0`, 'utf8')
  const isFar = text.length > 4
  const value = isFar ? block32(block, offset) : Buffer.concat([text, Buffer.alloc(4 - text.length)])
  return {
    tag,
    bytes: Buffer.concat([block16(block, tag), block16(block, asciiType), block32(block, text.length), value]),
    far: isFar ? Buffer.concat([text, Buffer.alloc(text.length & 1)]) : Buffer.alloc(0),
  }
}
