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
