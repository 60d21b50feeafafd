import sharp from 'sharp'
import { AppError, type ErrorReport, reasonOf } from '@/base/errors'
import { longEdge } from '@/base/geometry'
import { srgbCurve } from '@/colour/curve'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import type { WhenDamaged } from '@/jobs/loop'
import type { InterleavedSource, PixelColour } from '@/pixels/picture'
import { kindToRead, pictureError, readerOptions } from './facts'
import { readMatrixProfile } from './icc'
import { headBytes } from './loaders'
import { splitOpacity } from './opacity'
import { rawCarried, rawPicture } from './raw/read-raw'

const srgbColour: PixelColour = { curves: [srgbCurve, srgbCurve, srgbCurve], toWorking: rgbToRgb(colourSpaces.srgb, workingSpace) }

/** What a file carries besides its pixels, as it was found. */
export interface CarriedMetadata {
  readonly exif?: Buffer
  readonly iptc?: Buffer
  readonly xmp?: Buffer
}

export interface DecodedPicture {
  readonly source: InterleavedSource
  readonly carried: CarriedMetadata
  /** Why the file can be read only in part, where it is and that was asked for. */
  readonly damage?: ErrorReport
}

export interface DecodeOptions {
  /** Reduces the picture while decoding, so that no side is longer: for looking, not for delivering. */
  readonly maxEdge?: number
  /** Looks hard for damage, and says what becomes of it. Without it only files whose end is missing are refused. */
  readonly damaged?: WhenDamaged
  /** Whether the scan of a JPEG reads as an encoder wrote it: its decoder guesses where it can't be sure, and says nothing. */
  isWholeJpeg?(bytes: Buffer): boolean
}

/**
 * Decodes a file's bytes to upright, interleaved RGB in its own colours, 8 or 16 bit. RGB with a matrix profile,
 * or none, stays as it is; everything else (CMYK, grey, table profiles) is brought to sRGB by libvips first.
 * Opacity stays beside the colours; where nothing is seen, colours are those of the nearest place where something is.
 * @throws AppError `fileEmpty`, `notAPicture`, `pictureDamaged`, `pictureInPart`, `pictureTooLarge`
 */
export async function decodePicture(bytes: Buffer, path: string, options: DecodeOptions = {}): Promise<DecodedPicture> {
  const kind = kindToRead(bytes.subarray(0, headBytes), path)
  const { damaged, isWholeJpeg, maxEdge } = options
  if (kind === 'raw') return maxEdge ? { source: await reducedRaw(bytes, path, maxEdge), carried: {} } : wholeRaw(bytes, path)
  if (!damaged) return decodeWith(bytes, path, 'error', maxEdge)
  try {
    if (kind !== 'jpeg') return await decodeWith(bytes, path, 'error', maxEdge)
    const decoded = await decodeStrictly(bytes, path, maxEdge)
    if (isWholeJpeg?.(bytes) === false) throw new AppError('pictureInPart', { path })
    return decoded
  } catch (error) {
    const isDamage = error instanceof AppError && (error.code === 'pictureDamaged' || error.code === 'pictureInPart')
    if (damaged === 'fail' || !isDamage) throw error
    return { ...(await decodeWith(bytes, path, 'none', maxEdge)), damage: error.report }
  }
}

const wholeRaw = async (bytes: Buffer, path: string): Promise<DecodedPicture> => ({
  source: await rawPicture(bytes, { path }),
  carried: await rawCarried(bytes, { path }),
})

const reducedRaw = async (bytes: Buffer, path: string, maxEdge: number): Promise<InterleavedSource> =>
  reducedLight(await rawPicture(bytes, { path }, true), maxEdge)

/** The codes of a raw file, 16 bits to a channel, for a smaller picture. They are light: its codes are their means. */
export async function reducedLight(source: InterleavedSource, maxEdge: number): Promise<InterleavedSource> {
  if (longEdge(source.size) <= maxEdge) return source
  const { data, info } = await sharp(source.pixels, { raw: { ...source.size, channels: 3 } })
    .pipelineColourspace('rgb16')
    .resize(maxEdge, maxEdge, { fit: 'inside', kernel: 'mitchell' })
    .toColourspace('rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true })
  const pixels = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
  return { ...source, size: { width: info.width, height: info.height }, pixels }
}

/** What the JPEG decoder says of a scan that is not as it was written; its other warnings are about metadata, and do no harm. */
const brokenScan = /corrupt jpeg|premature end/i

async function decodeStrictly(bytes: Buffer, path: string, maxEdge: number | undefined): Promise<DecodedPicture> {
  try {
    return await decodeWith(bytes, path, 'warning', maxEdge)
  } catch (error) {
    const reason = error instanceof AppError ? reasonOf(error.cause) : ''
    if (brokenScan.test(reason)) throw error
    return decodeWith(bytes, path, 'error', maxEdge)
  }
}

async function decodeWith(
  bytes: Buffer,
  path: string,
  failOn: 'none' | 'error' | 'warning',
  maxEdge: number | undefined,
): Promise<DecodedPicture> {
  const reader = { ...readerOptions, failOn }
  try {
    const meta = await sharp(bytes, reader).metadata()
    const own = isOwnRgb(meta.space) ? (meta.icc ? readMatrixProfile(meta.icc) : srgbColour) : undefined
    const deep = meta.depth !== 'uchar'
    let image = sharp(bytes, { ...reader, ignoreIcc: own !== undefined }).autoOrient()
    if (maxEdge) image = image.resize(maxEdge, maxEdge, { fit: 'inside', withoutEnlargement: true })
    // Without this, libvips would leave 16 bits in Display P3.
    if (!own) image = image.withIccProfile('srgb')
    const { data, info } = await image
      .toColourspace(deep ? 'rgb16' : 'srgb')
      .raw({ depth: deep ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const samples = deep
      ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      : new Uint8Array(data.buffer, data.byteOffset, data.length)
    const size = { width: info.width, height: info.height }
    const planes = info.channels === 4 ? splitOpacity(samples, size) : { pixels: samples }
    return {
      source: { kind: 'interleaved', size, colour: own ?? srgbColour, ...planes },
      carried: { exif: meta.exif, iptc: meta.iptc, xmp: meta.xmp },
    }
  } catch (error) {
    throw pictureError(error, path)
  }
}

const isOwnRgb = (space: string | undefined): boolean => space === 'srgb' || space === 'rgb' || space === 'rgb16'
