import sharp from 'sharp'
import { srgbCurve } from '@/core/colour/curve'
import { colourSpaces, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import type { InterleavedSource, PixelColour } from '@/core/picture'
import { pictureError, readerOptions } from './facts'
import { readMatrixProfile } from './icc'
import { splitOpacity } from './opacity'

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
}

/**
 * Decodes a file's bytes to upright, interleaved RGB in its own colours, 8 or 16 bit. RGB with a matrix profile,
 * or none, stays as it is; everything else (CMYK, grey, table profiles) is brought to sRGB by libvips first.
 * Opacity stays beside the colours; where nothing is seen, colours are those of the nearest place where something is.
 * @param mostEdge reduces the picture while decoding, so that no side is longer: for looking, not for delivering.
 * @throws AppError `fileEmpty`, `notAPicture`, `pictureDamaged`, `pictureTooLarge`
 */
export async function decodePicture(bytes: Buffer, path: string, mostEdge?: number): Promise<DecodedPicture> {
  try {
    const meta = await sharp(bytes, readerOptions).metadata()
    const own = isOwnRgb(meta.space) ? (meta.icc ? readMatrixProfile(meta.icc) : srgbColour) : undefined
    const deep = meta.depth !== 'uchar'
    let image = sharp(bytes, { ...readerOptions, ignoreIcc: own !== undefined }).autoOrient()
    if (mostEdge) image = image.resize(mostEdge, mostEdge, { fit: 'inside', withoutEnlargement: true })
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
