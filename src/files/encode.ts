import sharp, { type Sharp } from 'sharp'
import { AppError } from '@/base/errors'
import type { Size } from '@/base/geometry'
import { codeAt, floatAt } from '@/base/numbers'
import { colourSpaces, type OutputSpaceId } from '@/colour/spaces'
import { type Encoding, formats } from '@/jobs/encoding'
import type { CarriedMetadata } from './decode'
import { buildGreyProfile, buildMatrixProfile } from './icc'
import { uprightExif } from './metadata/exif'
import { insertSegments } from './metadata/jpeg-segments'
import { insertChunks, withoutResolution } from './metadata/png-chunks'
import { withoutUnit } from './metadata/tiff-resolution'

/** Encoded, interleaved RGB, or RGBA with colours not multiplied. Grey pictures have three equal channels. */
export interface EncodedPixels {
  readonly values: Uint8ClampedArray | Uint16Array
  readonly channels: 3 | 4
}

/** RGB and opacity, 0–1, as RGBA of the same depth. */
export function withOpacity(rgb: EncodedPixels['values'], opacity: Float32Array): EncodedPixels {
  const deep = rgb instanceof Uint16Array
  const values = deep ? new Uint16Array(opacity.length * 4) : new Uint8ClampedArray(opacity.length * 4)
  for (let i = 0; i < opacity.length; i++) {
    for (let channel = 0; channel < 3; channel++) values[i * 4 + channel] = codeAt(rgb, i * 3 + channel)
    values[i * 4 + 3] = Math.round(floatAt(opacity, i) * (deep ? 65535 : 255))
  }
  return { values, channels: 4 }
}

const profiles = new Map<OutputSpaceId, Uint8Array>()

function profileOf(space: OutputSpaceId): Uint8Array {
  const profile = profiles.get(space) ?? (space === 'grey' ? buildGreyProfile() : buildMatrixProfile(colourSpaces[space]))
  profiles.set(space, profile)
  return profile
}

/** The first channel of grey pixels, and their opacity. */
function greyOf({ values, channels }: EncodedPixels): EncodedPixels['values'] {
  const [count, kept] = [values.length / channels, channels - 2]
  const grey = values instanceof Uint16Array ? new Uint16Array(count * kept) : new Uint8ClampedArray(count * kept)
  for (let i = 0; i < count; i++) {
    grey[i * kept] = codeAt(values, i * channels)
    if (kept === 2) grey[i * kept + 1] = codeAt(values, i * channels + 3)
  }
  return grey
}

/** Pixels as sharp takes them, kept at their depth and their number of channels. */
function imageOf(pixels: EncodedPixels, size: Size, encoding: Encoding): Sharp {
  const isGrey = encoding.space === 'grey'
  const isDeep = pixels.values instanceof Uint16Array
  const channels = isGrey ? ((pixels.channels - 2) as 1 | 2) : pixels.channels
  const image = sharp(isGrey ? greyOf(pixels) : pixels.values, { raw: { ...size, channels }, limitInputPixels: false })
  const space = isGrey ? (isDeep ? 'grey16' : 'b-w') : isDeep ? 'rgb16' : 'srgb'
  const tagged = image.toColourspace(space)
  return encoding.dpi === null ? tagged : tagged.withDensity(encoding.dpi)
}

/**
 * Pixels in the encoding's own space to a file with its profile and the source's metadata.
 * @throws AppError `tooLargeForFormat`, `sizeOutOfReach` where no quality makes the file small enough
 */
export async function encodePicture(pixels: EncodedPixels, size: Size, encoding: Encoding, carried: CarriedMetadata): Promise<Buffer> {
  const { label, maxPx } = formats[encoding.format]
  if (Math.max(size.width, size.height) > maxPx) throw new AppError('tooLargeForFormat', { format: label, limit: maxPx })
  const exif = carried.exif && uprightExif(carried.exif, size.width, size.height)
  const metadata = { ...carried, exif }
  const profile = profileOf(encoding.space)
  switch (encoding.format) {
    case 'jpeg':
      return fitting(encoding, async ({ quality, chroma, smallest }) => {
        // What makes files smallest writes them progressive, too.
        const way = smallest ? { mozjpeg: true } : { progressive: encoding.progressive }
        const jpeg = imageOf(pixels, size, encoding).jpeg({ quality, chromaSubsampling: chroma, ...way })
        return insertSegments(await jpeg.toBuffer(), profile, metadata)
      })
    case 'png': {
      const png = await imageOf(pixels, size, encoding).png({ compressionLevel: 6 }).toBuffer()
      return insertChunks(encoding.dpi === null ? withoutResolution(png) : png, profile, metadata)
    }
    case 'tiff':
      return tiffOf(await carrier(pixels, size, encoding, metadata), encoding)
    case 'webp':
      return fitting(encoding, async ({ quality, chroma }) =>
        (await carrier(pixels, size, encoding, metadata)).webp({ quality, smartSubsample: chroma === '4:4:4' }).toBuffer(),
      )
    case 'avif':
      return fitting(encoding, async ({ quality, chroma }) =>
        (await carrier(pixels, size, encoding, metadata)).avif({ quality, chromaSubsampling: chroma, effort: 3 }).toBuffer(),
      )
  }
}

async function tiffOf(image: Sharp, encoding: Encoding): Promise<Buffer> {
  const { compression } = encoding
  const predictor = compression === 'none' ? 'none' : 'horizontal'
  const tiff = await image.tiff({ compression, predictor, ...resolution(encoding) }).toBuffer()
  return encoding.dpi === null ? withoutUnit(tiff) : tiff
}

/** TIFF states its resolution in pixels a millimetre here. */
const resolution = ({ dpi }: Encoding): { xres?: number; yres?: number } => (dpi === null ? {} : { xres: dpi / 25.4, yres: dpi / 25.4 })

const unknownDpi = 72

/** An uncompressed PNG in memory hands profile and metadata on to formats whose containers we do not write ourselves. */
async function carrier(pixels: EncodedPixels, size: Size, encoding: Encoding, metadata: CarriedMetadata): Promise<Sharp> {
  const png = insertChunks(
    await imageOf(pixels, size, encoding).png({ compressionLevel: 0 }).toBuffer(),
    profileOf(encoding.space),
    metadata,
  )
  const isDeep = pixels.values instanceof Uint16Array
  // EXIF must state a resolution: where it is not known, 72 dpi (CIPA DC-008, 4.6.4, XResolution).
  const image = sharp(png, { limitInputPixels: false })
    .keepMetadata()
    .withDensity(encoding.dpi ?? unknownDpi)
  if (encoding.space === 'grey') return image.toColourspace(isDeep ? 'grey16' : 'b-w')
  return isDeep ? image.toColourspace('rgb16') : image
}

/** How a file that may lose detail is written. */
type Way = Pick<Encoding, 'chroma' | 'smallest'> & { readonly quality: number }

interface Range extends Pick<Encoding, 'chroma'> {
  readonly low: number
  readonly high: number
  readonly smallest?: boolean
}

/** Qualities below this are seen at once; colour at half resolution is seen less. */
const minQuality = 20
/** Below this nothing is worth delivering. */
const leastQuality = 5

/**
 * The file at its quality, or at the highest one below that fits: first with colour as it is wanted, then at half resolution, then with less
 * quality than is good. The search halves the range. What is left under the limit is used up by writing the file as small as it gets.
 */
async function fitting(encoding: Encoding, encode: (way: Way) => Promise<Buffer>): Promise<Buffer> {
  const { format, qualityPercent, mostKb, chroma, smallest } = encoding
  const first = await encode({ quality: qualityPercent, chroma, smallest })
  if (mostKb === null || first.length <= mostKb * 1000) return first
  const good = { low: Math.min(minQuality, qualityPercent), high: qualityPercent - 1 }
  const best =
    (await highest({ ...good, chroma })) ??
    (chroma === '4:2:0' ? undefined : await highest({ ...good, high: qualityPercent, chroma: '4:2:0' })) ??
    (await highest({ low: leastQuality, high: Math.min(minQuality - 1, qualityPercent), chroma: '4:2:0' }))
  if (!best) throw new AppError('sizeOutOfReach', { format: formats[format].label, limit: mostKb, quality: leastQuality })
  if (format !== 'jpeg' || smallest) return best.file
  const { chroma: taken, quality } = best.way
  return (await highest({ low: quality + 1, high: qualityPercent, chroma: taken, smallest: true }))?.file ?? best.file

  async function highest({ chroma: colour, smallest: isSmallest = smallest, ...range }: Range) {
    let { low, high } = range
    let found: { readonly file: Buffer; readonly way: Way } | undefined
    while (low <= high) {
      const way = { quality: Math.floor((low + high) / 2), chroma: colour, smallest: isSmallest }
      const file = await encode(way)
      if (file.length <= (mostKb ?? 0) * 1000) {
        found = { file, way }
        low = way.quality + 1
      } else high = way.quality - 1
    }
    return found
  }
}
