import { extname } from 'node:path'
import { rawExtensions } from '@/jobs/picture-names'

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

export const hasRawName = (path: string): boolean => rawExtensions.has(extname(path).toLowerCase())

export const hasRawSignature = (head: Uint8Array): boolean =>
  signatures.some(([from, signature]) => text(head, from, from + signature.length) === signature)

/** The tag that every DNG has in its first directory (DNG 1.4, DNGVersion), and what a mosaic says it is (TIFF/EP, ISO 12234-2). */
const dngVersion = 50706
const photometric = 262
const mosaic = 32803

/**
 * Whether a TIFF says in its first directory that it is a DNG, or a mosaic.
 * @param bytes at least as far as that directory goes; of what lies beyond nothing is said
 */
export function isRawTiff(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const little = text(bytes, 0, 2) === 'II'
  try {
    if (view.getUint16(2, little) !== 42) return false
    const directory = view.getUint32(4, little)
    const count = view.getUint16(directory, little)
    for (let i = 0; i < count; i++) {
      const at = directory + 2 + i * 12
      const tag = view.getUint16(at, little)
      if (tag === dngVersion || (tag === photometric && view.getUint16(at + 8, little) === mosaic)) return true
    }
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
  }
  return false
}
