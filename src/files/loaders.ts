import sharp from 'sharp'
import { isRawName } from '@/jobs/picture-names'
import { hasRawSignature, isRawTiff } from './raw/kinds'

/*
 * What a file is, by its first bytes, and the loaders of libvips that may open it. Its name says nothing: a file called
 * .jpg that holds a drawing, a document or a script must reach no loader that would carry it out.
 */

export type PictureKind = 'jpeg' | 'png' | 'tiff' | 'webp' | 'avif' | 'raw'

/** As many bytes as tell what a file is: the first directory of a DNG lies at its beginning. */
export const headBytes = 4096

const starts = (head: Uint8Array, ...bytes: readonly number[]): boolean => bytes.every((byte, i) => head[i] === byte)
const text = (head: Uint8Array, from: number, to: number): string => Buffer.from(head.subarray(from, to)).toString('latin1')

/** The brands of a box of kind `ftyp` (ISO/IEC 14496-12, 4.3): the major one and those it is compatible with. */
function brandsOf(head: Uint8Array): string[] {
  if (text(head, 4, 8) !== 'ftyp') return []
  const end = Math.min(head.length, Buffer.from(head).readUInt32BE(0))
  const brands = [text(head, 8, 12)]
  for (let at = 16; at + 4 <= end; at += 4) brands.push(text(head, at, at + 4))
  return brands
}

/** What the first bytes of a file, and for raw files its name, say it is; undefined for anything that is not read. */
export function kindOf(head: Uint8Array, name = ''): PictureKind | undefined {
  if (hasRawSignature(head)) return 'raw'
  if (starts(head, 0xff, 0xd8, 0xff)) return 'jpeg'
  if (starts(head, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'png'
  // TIFF 6.0, and its form for files over 4 GB, in either order of bytes.
  if (starts(head, 0x49, 0x49, 42, 0) || starts(head, 0x4d, 0x4d, 0, 42)) return isRawName(name) || isRawTiff(head) ? 'raw' : 'tiff'
  if (starts(head, 0x49, 0x49, 43, 0) || starts(head, 0x4d, 0x4d, 0, 43)) return 'tiff'
  if (text(head, 0, 4) === 'RIFF' && text(head, 8, 12) === 'WEBP') return 'webp'
  return brandsOf(head).some((brand) => brand === 'avif' || brand === 'avis') ? 'avif' : undefined
}

/** The classes of libvips' loaders for these kinds. */
const allowed = ['VipsForeignLoadJpeg', 'VipsForeignLoadPng', 'VipsForeignLoadTiff', 'VipsForeignLoadWebp', 'VipsForeignLoadHeif']

/** Bars every other loader in this process, whatever is given to it. */
export function allowOnlyPictures(): void {
  sharp.block({ operation: ['VipsForeignLoad'] })
  sharp.unblock({ operation: allowed })
}
