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

const valueBytes = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4]
/** Entries that lead to other directories: those below, EXIF's, GPS's. */
const pointers: ReadonlySet<number> = new Set([330, 0x8769, 0x8825])
const maxDirectories = 40

interface Entry {
  readonly tag: number
  /** A short one that stands in the entry itself. */
  readonly short: number
  /** Where the value ends. */
  readonly end: number
  /** Where it leads to, if it leads to directories. */
  readonly leadsTo: readonly number[]
}

interface Directory {
  readonly entries: readonly Entry[]
  readonly next: number
}

/** A directory of a TIFF, or undefined where it is not all there. @param at the first one, if not given */
function directoryOf(bytes: Uint8Array, at?: number): Directory | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const little = text(bytes, 0, 2) === 'II'
  try {
    if (view.getUint16(2, little) !== 42) return undefined
    const directory = at ?? view.getUint32(4, little)
    const count = view.getUint16(directory, little)
    const entries = Array.from({ length: count }, (_, i): Entry => {
      const entry = directory + 2 + i * 12
      const [tag, values] = [view.getUint16(entry, little), view.getUint32(entry + 4, little)]
      const length = (valueBytes[view.getUint16(entry + 2, little)] ?? 0) * values
      const from = length > 4 ? view.getUint32(entry + 8, little) : entry + 8
      const leadsTo = pointers.has(tag) ? Array.from({ length: Math.min(values, 16) }, (_, k) => view.getUint32(from + k * 4, little)) : []
      return { tag, short: view.getUint16(entry + 8, little), end: from + length, leadsTo }
    })
    return { entries, next: view.getUint32(directory + 2 + count * 12, little) }
  } catch (error) {
    if (error instanceof RangeError) return undefined
    throw error
  }
}

/**
 * Whether a TIFF says in its first directory that it is a DNG, or a mosaic.
 * @param bytes at least as far as that directory goes; of what lies beyond nothing is said
 */
export const isRawTiff = (bytes: Uint8Array): boolean =>
  directoryOf(bytes)?.entries.some(({ tag, short }) => tag === dngVersion || (tag === photometric && short === mosaic)) ?? false

/** Whether a TIFF is shorter than its first directory says. */
export function isCutOff(bytes: Uint8Array): boolean {
  const first = directoryOf(bytes)
  return first ? first.entries.some(({ end }) => end > bytes.length) : /^(II\*\0|MM\0\*)/.test(text(bytes, 0, 4))
}

/** Whether all that a TIFF says of its pictures, if not the pictures themselves, lies within these first bytes of it. */
export function isDescribedWithin(head: Uint8Array): boolean {
  const open: (number | undefined)[] = [undefined]
  const seen = new Set<number | undefined>()
  while (open.length > 0) {
    const at = open.pop()
    if (seen.has(at)) continue
    seen.add(at)
    const directory = directoryOf(head, at)
    if (!directory || seen.size > maxDirectories || directory.entries.some(({ end }) => end > head.length)) return false
    open.push(...directory.entries.flatMap(({ leadsTo }) => leadsTo), ...(directory.next ? [directory.next] : []))
  }
  return true
}
