/*
 * The few changes a delivered picture's EXIF block needs (CIPA DC-008-2023, 4.6): the pixels are upright now, and
 * the embedded thumbnail shows the old picture.
 */

const orientationTag = 0x0112
const exifPointerTag = 0x8769
const pixelWidthTag = 0xa002
const pixelHeightTag = 0xa003
const entryBytes = 12

interface Block {
  readonly view: DataView
  /** Offsets in the block count from here. */
  readonly origin: number
  readonly little: boolean
}

function openBlock(exif: Buffer): Block | undefined {
  const origin = exif.toString('latin1', 0, 6) === 'Exif\0\0' ? 6 : 0
  const order = exif.toString('latin1', origin, origin + 2)
  if (order !== 'II' && order !== 'MM') return undefined
  return { view: new DataView(exif.buffer, exif.byteOffset, exif.length), origin, little: order === 'II' }
}

/** Calls `visit` with the tag and the place of each entry's value; returns the place of the link to the next directory. */
function eachEntry(
  { view, origin, little }: Block,
  directory: number,
  visit: (tag: number, valueAt: number, type: number) => void,
): number {
  const start = origin + directory
  const count = view.getUint16(start, little)
  for (let i = 0; i < count; i++) {
    const entry = start + 2 + i * entryBytes
    visit(view.getUint16(entry, little), entry + 8, view.getUint16(entry + 2, little))
  }
  return start + 2 + count * entryBytes
}

/**
 * A copy of an EXIF block for an upright picture of the given size: orientation 1, new pixel dimensions, the
 * thumbnail unlinked. A block that can't be read is dropped: undefined.
 */
export function uprightExif(exif: Buffer, width: number, height: number): Buffer | undefined {
  const copy = Buffer.from(exif)
  try {
    const block = openBlock(copy)
    if (!block) return undefined
    const { view, origin, little } = block
    const write = (at: number, type: number, value: number): void =>
      type === 3 ? view.setUint16(at, Math.min(value, 65535), little) : view.setUint32(at, value, little)
    let exifDirectory = 0
    const next = eachEntry(block, view.getUint32(origin + 4, little), (tag, at, type) => {
      if (tag === orientationTag) write(at, type, 1)
      if (tag === exifPointerTag) exifDirectory = view.getUint32(at, little)
    })
    view.setUint32(next, 0, little)
    if (exifDirectory > 0)
      eachEntry(block, exifDirectory, (tag, at, type) => {
        if (tag === pixelWidthTag) write(at, type, width)
        if (tag === pixelHeightTag) write(at, type, height)
      })
    return copy
  } catch (error) {
    if (error instanceof RangeError) return undefined
    throw error
  }
}

const gpsPointerTag = 0x8825

/** A copy without the directory of coordinates: its values are blanked, then its pointer. A block that can't be read is dropped. */
export function withoutGps(exif: Buffer): Buffer | undefined {
  const copy = Buffer.from(exif)
  try {
    const block = openBlock(copy)
    if (!block) return undefined
    const { view, origin, little } = block
    eachEntry(block, view.getUint32(origin + 4, little), (tag, at) => {
      if (tag !== gpsPointerTag) return
      blankDirectory(block, view.getUint32(at, little))
      view.setUint32(at, 0, little)
      // A tag nobody reads, in order between its neighbours: the entry stands empty.
      view.setUint16(at - 8, gpsPointerTag - 1, little)
    })
    return copy
  } catch (error) {
    if (error instanceof RangeError) return undefined
    throw error
  }
}

/** Bytes of one value by its type (CIPA DC-008, 4.6.2). */
const valueBytes: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 9: 4, 10: 8 }

function blankDirectory(block: Block, directory: number): void {
  const { view, origin, little } = block
  const start = origin + directory
  const count = view.getUint16(start, little)
  for (let i = 0; i < count; i++) {
    const entry = start + 2 + i * entryBytes
    const bytes = (valueBytes[view.getUint16(entry + 2, little)] ?? 1) * view.getUint32(entry + 4, little)
    const at = bytes > 4 ? origin + view.getUint32(entry + 8, little) : entry + 8
    for (let byte = at; byte < Math.min(at + bytes, view.byteLength); byte++) view.setUint8(byte, 0)
  }
  for (let byte = start; byte < Math.min(start + 2 + count * entryBytes, view.byteLength); byte++) view.setUint8(byte, 0)
}

const textTags = { description: 0x010e, creator: 0x013b, rights: 0x8298 } as const
const asciiType = 2

/**
 * A block with texts of its first directory written anew. What stands in the block stays where it is, so that no offset changes: the new
 * directory and its texts are put behind it. Without a block to begin with, a new one.
 */
export function exifWith(exif: Buffer | undefined, texts: Partial<Record<keyof typeof textTags, string>>): Buffer | undefined {
  const wanted = Object.entries(texts).flatMap(([field, line]) => (line ? [[textTags[field as keyof typeof textTags], line] as const] : []))
  if (wanted.length === 0) return exif
  const base = exif && openBlock(exif) ? exif : Buffer.from('II*\0\x08\0\0\0\0\0\0\0\0\0', 'latin1')
  const block = openBlock(base) as Block
  const { view, origin, little } = block
  try {
    const old: { tag: number; bytes: Buffer }[] = []
    const next = eachEntry(block, view.getUint32(origin + 4, little), (tag, at) => old.push({ tag, bytes: base.subarray(at - 8, at + 4) }))
    const kept = old.filter(({ tag }) => !wanted.some(([replaced]) => replaced === tag))
    const start = base.length + (base.length & 1)
    const entries = kept.length + wanted.length
    let textAt = start + 2 + entries * entryBytes + 4
    const added = wanted.map(([tag, line]) => {
      // Texts of up to four bytes, end included, stand in the entry itself; longer ones are reached by an offset.
      const text = Buffer.from(`${line}\0`, 'utf8')
      const bytes = Buffer.alloc(entryBytes)
      const fields = new DataView(bytes.buffer, bytes.byteOffset)
      fields.setUint16(0, tag, little)
      fields.setUint16(2, asciiType, little)
      fields.setUint32(4, text.length, little)
      if (text.length <= 4) text.copy(bytes, 8)
      else fields.setUint32(8, textAt - origin, little)
      const far = text.length > 4 ? Buffer.concat([text, Buffer.alloc(text.length & 1)]) : Buffer.alloc(0)
      textAt += far.length
      return { tag, bytes, far }
    })
    const head = Buffer.alloc(2)
    const link = Buffer.alloc(4)
    new DataView(head.buffer, head.byteOffset).setUint16(0, entries, little)
    new DataView(link.buffer, link.byteOffset).setUint32(0, view.getUint32(next, little), little)
    const directory = [...kept, ...added].sort((a, b) => a.tag - b.tag).map(({ bytes }) => bytes)
    const result = Buffer.concat([base, Buffer.alloc(base.length & 1), head, ...directory, link, ...added.map(({ far }) => far)])
    new DataView(result.buffer, result.byteOffset).setUint32(origin + 4, start - origin, little)
    return result
  } catch (error) {
    if (error instanceof RangeError) return exifWith(undefined, texts)
    throw error
  }
}
