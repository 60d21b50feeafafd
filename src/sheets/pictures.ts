import { readFile } from 'node:fs/promises'
import sharp from 'sharp'
import { AppError, systemCode } from '@/base/errors'

/* Delivered files as pages take them. */

/** A JPEG as it goes into a PDF: its bytes as they are, and what a reader must know of them. */
export interface PageJpeg {
  readonly bytes: Buffer
  readonly width: number
  readonly height: number
  readonly channels: 1 | 3
  /** The ICC profile that it holds; null for sRGB. */
  readonly profile: Buffer | null
}

/** Of a JPEG that is made for a page. */
const quality = 95
/** A file that has more pixels than its place needs by this much is made smaller for it. */
const spareFactor = 1.5

/** A delivered file's bytes. @throws AppError `fileMissing` where it has gone since */
export const readPicture = (path: string): Promise<Buffer> =>
  readFile(path).catch((error: unknown) => {
    throw systemCode(error) === 'ENOENT' ? new AppError('fileMissing', { path }) : error
  })

/** A picture for a place of a certain size in pixels; null: as it is. A JPEG that is no larger than that goes in byte for byte. */
export async function pageJpeg(path: string, edge: number | null, ground: string): Promise<PageJpeg> {
  const bytes = await readPicture(path)
  const { format, width, height, channels, icc, depth, orientation } = await sharp(bytes).metadata()
  const longest = Math.max(width, height)
  const isTooLarge = edge !== null && longest > edge * spareFactor
  if (format === 'jpeg' && (channels === 1 || channels === 3) && depth === 'uchar' && (orientation ?? 1) === 1 && !isTooLarge)
    return { bytes, width, height, channels, profile: icc ?? null }
  const fitted = sharp(bytes).autoOrient().flatten({ background: ground })
  const sized = isTooLarge ? fitted.resize({ width: edge, height: edge, fit: 'inside' }) : fitted
  const { data, info } = await sized
    .toColourspace('srgb')
    .jpeg({ quality, chromaSubsampling: '4:4:4' })
    .toBuffer({ resolveWithObject: true })
  return { bytes: data, width: info.width, height: info.height, channels: info.channels === 1 ? 1 : 3, profile: null }
}
