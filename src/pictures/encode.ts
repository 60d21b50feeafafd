import sharp, { type Sharp } from 'sharp'
import { colourSpaces, type OutputSpaceId } from '@/core/colour/spaces'
import { type Encoding, formats } from '@/core/encoding'
import { AppError } from '@/core/errors'
import type { Size } from '@/core/geometry'
import type { CarriedMetadata } from './decode'
import { uprightExif } from './exif'
import { buildGreyProfile, buildMatrixProfile } from './icc'
import { insertSegments } from './jpeg-segments'
import { insertChunks } from './png-chunks'

/** Encoded, interleaved RGB. Grey pictures have three equal channels. */
export type EncodedPixels = Uint8ClampedArray | Uint16Array

const profiles = new Map<OutputSpaceId, Uint8Array>()

function profileOf(space: OutputSpaceId): Uint8Array {
  const profile = profiles.get(space) ?? (space === 'grey' ? buildGreyProfile() : buildMatrixProfile(colourSpaces[space]))
  profiles.set(space, profile)
  return profile
}

/** Every third value: the first channel of grey pixels. */
function firstChannel(pixels: EncodedPixels): EncodedPixels {
  const length = pixels.length / 3
  const grey = pixels instanceof Uint16Array ? new Uint16Array(length) : new Uint8ClampedArray(length)
  for (let i = 0; i < length; i++) grey[i] = pixels[i * 3] as number
  return grey
}

/** Pixels as sharp takes them, kept at their depth and their number of channels. */
function imageOf(pixels: EncodedPixels, size: Size, encoding: Encoding): Sharp {
  const isGrey = encoding.space === 'grey'
  const isDeep = pixels instanceof Uint16Array
  const data = isGrey ? firstChannel(pixels) : pixels
  const image = sharp(data, { raw: { ...size, channels: isGrey ? 1 : 3 }, limitInputPixels: false })
  const space = isGrey ? (isDeep ? 'grey16' : 'b-w') : isDeep ? 'rgb16' : 'srgb'
  const tagged = image.toColourspace(space)
  return encoding.dpi === null ? tagged : tagged.withDensity(encoding.dpi)
}

/**
 * Pixels in the encoding's own space to a file with its profile and the source's metadata.
 * @throws AppError `tooLargeForFormat`, `sizeOutOfReach` where no quality makes the file small enough
 */
export async function encodePicture(pixels: EncodedPixels, size: Size, encoding: Encoding, carried: CarriedMetadata): Promise<Buffer> {
  const { label, mostPx } = formats[encoding.format]
  if (Math.max(size.width, size.height) > mostPx) throw new AppError('tooLargeForFormat', { format: label, limit: mostPx })
  const exif = carried.exif && uprightExif(carried.exif, size.width, size.height)
  const metadata = { ...carried, exif }
  const profile = profileOf(encoding.space)
  switch (encoding.format) {
    case 'jpeg':
      return fitting(encoding, async (quality) => {
        const options = { quality, chromaSubsampling: encoding.chroma, progressive: encoding.progressive }
        return insertSegments(await imageOf(pixels, size, encoding).jpeg(options).toBuffer(), profile, metadata)
      })
    case 'png':
      return insertChunks(await imageOf(pixels, size, encoding).png({ compressionLevel: 6 }).toBuffer(), profile, metadata)
    case 'tiff':
      return (await carrier(pixels, size, encoding, metadata))
        .tiff({
          compression: encoding.compression,
          predictor: encoding.compression === 'none' ? 'none' : 'horizontal',
          ...resolution(encoding),
        })
        .toBuffer()
    case 'webp':
      return fitting(encoding, async (quality) =>
        (await carrier(pixels, size, encoding, metadata)).webp({ quality, smartSubsample: encoding.chroma === '4:4:4' }).toBuffer(),
      )
    case 'avif':
      return fitting(encoding, async (quality) =>
        (await carrier(pixels, size, encoding, metadata)).avif({ quality, chromaSubsampling: encoding.chroma, effort: 3 }).toBuffer(),
      )
  }
}

/** TIFF states its resolution in pixels a millimetre here. */
const resolution = ({ dpi }: Encoding): { xres?: number; yres?: number } => (dpi === null ? {} : { xres: dpi / 25.4, yres: dpi / 25.4 })

/** An uncompressed PNG in memory hands profile and metadata on to formats whose containers we do not write ourselves. */
async function carrier(pixels: EncodedPixels, size: Size, encoding: Encoding, metadata: CarriedMetadata): Promise<Sharp> {
  const png = insertChunks(
    await imageOf(pixels, size, encoding).png({ compressionLevel: 0 }).toBuffer(),
    profileOf(encoding.space),
    metadata,
  )
  const isDeep = pixels instanceof Uint16Array
  const image = sharp(png, { limitInputPixels: false }).keepMetadata()
  if (encoding.space === 'grey') return image.toColourspace(isDeep ? 'grey16' : 'b-w')
  return isDeep ? image.toColourspace('rgb16') : image
}

/** Qualities below this are not worth delivering. */
const leastQuality = 20

/** The file at its quality, or at the highest one below that fits; the search halves the range, seven files at most. */
async function fitting({ format, qualityPercent, mostKb }: Encoding, encode: (quality: number) => Promise<Buffer>): Promise<Buffer> {
  const first = await encode(qualityPercent)
  if (mostKb === null || first.length <= mostKb * 1000) return first
  let [low, high] = [Math.min(leastQuality, qualityPercent), qualityPercent - 1]
  let best: Buffer | undefined
  while (low <= high) {
    const quality = Math.floor((low + high) / 2)
    const file = await encode(quality)
    if (file.length <= mostKb * 1000) {
      best = file
      low = quality + 1
    } else high = quality - 1
  }
  if (!best) throw new AppError('sizeOutOfReach', { format: formats[format].label, limit: mostKb, quality: leastQuality })
  return best
}
