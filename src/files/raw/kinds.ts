import { maxDirectories, TiffBlock } from '../metadata/tiff-block'

/*
 * Which files are raw files: by their first bytes where these tell, and by name and content together where a raw file is a TIFF like any other.
 */

const text = (head: Uint8Array, from: number, to: number): string => Buffer.from(head.subarray(from, to)).toString('latin1')

/** First bytes that only raw files have (common practice; the camera makers publish none of it). */
const signatures: readonly (readonly [from: number, text: string])[] = [
  [4, 'ftypcrx '],
  [0, 'FUJIFILMCCD-RAW'],
  [0, 'IIU\0'],
  [0, 'IIRO'],
  [0, 'IIRS'],
  [0, 'MMOR'],
  [0, '\0MRM'],
  [0, 'FOVb'],
  [6, 'HEAPCCDR'],
]

export const hasRawSignature = (head: Uint8Array): boolean =>
  signatures.some(([from, signature]) => text(head, from, from + signature.length) === signature)

/** The tag that every DNG has in its first directory (DNG 1.4, DNGVersion), and what a mosaic says it is (TIFF/EP, ISO 12234-2). */
const dngVersion = 50706
const photometric = 262
const mosaic = 32803

/** Entries that lead to other directories: those below, EXIF's, GPS's. */
const pointers: ReadonlySet<number> = new Set([330, 0x8769, 0x8825])

/** What a TIFF tells; `cutOff` where it is not all there, and undefined for what is none. */
function told<T>(bytes: Uint8Array, read: (block: TiffBlock) => T, cutOff: T): T | undefined {
  const block = TiffBlock.open(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length))
  try {
    return block?.u16(2) === 42 ? read(block) : undefined
  } catch (error) {
    if (error instanceof RangeError) return cutOff
    throw error
  }
}

const endsWithin = (block: TiffBlock, directory: number): boolean =>
  block.entries(directory).every((entry) => block.valueOf(entry)[1] <= block.bytes.length)

/**
 * Whether a TIFF says in its first directory that it is a DNG, or a mosaic.
 * @param bytes at least as far as that directory goes; of what lies beyond nothing is said
 */
export const isRawTiff = (bytes: Uint8Array): boolean =>
  told(
    bytes,
    (block) =>
      block
        .entries(block.first)
        .some((entry) => entry.tag === dngVersion || (entry.tag === photometric && block.numberOf(entry) === mosaic)),
    false,
  ) ?? false

/** Whether a TIFF is shorter than its first directory says. */
export const isCutOff = (bytes: Uint8Array): boolean => told(bytes, (block) => !endsWithin(block, block.first), true) ?? false

/** Whether all that a TIFF says of its pictures, if not the pictures themselves, lies within these first bytes of it. */
export const isDescribedWithin = (head: Uint8Array): boolean => told(head, everyDirectoryEndsWithin, false) ?? false

function everyDirectoryEndsWithin(block: TiffBlock): boolean {
  const open = [block.first]
  const seen = new Set<number>()
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    if (seen.has(at)) continue
    seen.add(at)
    if (seen.size > maxDirectories || !endsWithin(block, at)) return false
    const next = block.u32(block.linkOf(at))
    open.push(...block.entries(at).flatMap((entry) => (pointers.has(entry.tag) ? block.pointedTo(entry) : [])), ...(next ? [next] : []))
  }
  return true
}
