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

interface Entry {
  readonly tag: number
  /** A short one that stands in the entry itself. */
  readonly short: number
  /** Where the value ends. */
  readonly end: number
}

/** The entries of a TIFF's first directory, as far as it is there; undefined for anything else. */
function firstDirectory(bytes: Uint8Array): Entry[] | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const little = text(bytes, 0, 2) === 'II'
  const entries: Entry[] = []
  try {
    if (view.getUint16(2, little) !== 42) return undefined
    const directory = view.getUint32(4, little)
    const count = view.getUint16(directory, little)
    for (let i = 0; i < count; i++) {
      const at = directory + 2 + i * 12
      const length = (valueBytes[view.getUint16(at + 2, little)] ?? 0) * view.getUint32(at + 4, little)
      const end = length > 4 ? view.getUint32(at + 8, little) + length : at + 12
      entries.push({ tag: view.getUint16(at, little), short: view.getUint16(at + 8, little), end })
    }
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
    entries.push({ tag: 0, short: 0, end: Number.POSITIVE_INFINITY })
  }
  return entries
}

/**
 * Whether a TIFF says in its first directory that it is a DNG, or a mosaic.
 * @param bytes at least as far as that directory goes; of what lies beyond nothing is said
 */
export const isRawTiff = (bytes: Uint8Array): boolean =>
  firstDirectory(bytes)?.some(({ tag, short }) => tag === dngVersion || (tag === photometric && short === mosaic)) ?? false

/** Whether a TIFF is shorter than its first directory says. */
export const isCutOff = (bytes: Uint8Array): boolean => firstDirectory(bytes)?.some(({ end }) => end > bytes.length) ?? false
