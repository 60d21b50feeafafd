import sharp from 'sharp'
import { colourSpaces } from '@/core/colour/spaces'
import type { Size } from '@/core/geometry'
import type { CarriedMetadata } from './decode'
import { uprightExif } from './exif'
import { buildMatrixProfile } from './icc'
import { insertSegments } from './jpeg-segments'

export interface JpegSettings {
  /** 1–100. */
  readonly qualityPercent: number
  /** Whether colour is stored at full or half resolution. */
  readonly chroma: '4:4:4' | '4:2:0'
}

const srgbProfile = buildMatrixProfile(colourSpaces.srgb)

/** sRGB pixels, interleaved RGB, to a JPEG file with its profile and the source's metadata. */
export async function encodeJpeg(pixels: Uint8ClampedArray, size: Size, settings: JpegSettings, carried: CarriedMetadata): Promise<Buffer> {
  const jpeg = await sharp(pixels, { raw: { ...size, channels: 3 }, limitInputPixels: false })
    .jpeg({ quality: settings.qualityPercent, chromaSubsampling: settings.chroma })
    .toBuffer()
  const exif = carried.exif && uprightExif(carried.exif, size.width, size.height)
  return insertSegments(jpeg, srgbProfile, { ...carried, exif })
}

/** The extension a format's files get. */
export const jpegExtension = 'jpg'
