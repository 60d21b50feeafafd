import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { numberAt } from '@/base/numbers'
import { asShotToWorking } from '@/colour/camera'
import { identity3, type Matrix3, mapMatrix } from '@/colour/matrix'
import type { InterleavedSource, PictureFacts } from '@/pixels/picture'
import { isDescribedWithin } from './kinds'
import type { DecodedRaw, RawHead } from './libraw'
import { carriedByTiff, exifFromMetadata, type RawCarried } from './raw-exif'
import { askRaw, type RawWishes } from './raw-thread'

/** As much of a file as usually says all but the picture itself. */
export const rawHeadBytes = 1 << 21

/** What is known of bytes that have been looked at: whoever decodes them wants it, too. */
const heads = new WeakMap<Uint8Array, Promise<RawHead>>()

function headKnown(bytes: Uint8Array, wishes: RawWishes): Promise<RawHead> {
  const part = bytes.subarray(0, rawHeadBytes)
  const found = heads.get(bytes) ?? askRaw('head', isDescribedWithin(part) ? part : bytes, wishes)
  heads.set(bytes, found)
  return found
}

const straight = { kind: 'gamma', exponent: 1 } as const

/** Codes of a decoded raw file, and what they mean: scene light as the camera judged it, white and what lies above. */
function sourceOf({ size, pixels, gain, head: { colour } }: DecodedRaw): InterleavedSource {
  const toWorking: Matrix3 = colour ? asShotToWorking(colour) : identity3
  return {
    kind: 'interleaved',
    size,
    pixels,
    colour: { curves: [straight, straight, straight], toWorking: mapMatrix((i) => numberAt(toWorking, i) * gain) },
  }
}

/**
 * A raw file as a picture in linear light, upright.
 * @param halfSize at half its size, quickly: for looking
 * @throws AppError `pictureTooLarge`, and as `askRaw`
 */
export async function rawPicture(bytes: Uint8Array, wishes: RawWishes, halfSize = false): Promise<InterleavedSource> {
  checkSize(await headKnown(bytes, wishes), wishes.path)
  return sourceOf(await askRaw(halfSize ? 'half' : 'whole', bytes, wishes))
}

/** What a raw file says of how it was taken, to be carried to what is made of it. */
export async function rawCarried(bytes: Buffer, wishes: RawWishes): Promise<RawCarried> {
  const carried = carriedByTiff(bytes)
  if (carried.exif) return carried
  const { metadata } = await headKnown(bytes, wishes)
  return { exif: await exifFromMetadata(metadata) }
}

/** The decoder has 2 GB for itself and takes 16 bytes a pixel, beside the file. */
const maxRawMegapixels = 110

function checkSize({ size: { width, height } }: RawHead, path: string): void {
  if (width * height > maxRawMegapixels * 1e6) throw new AppError('pictureTooLarge', { path, limit: maxRawMegapixels })
}

/** Facts of a raw file by its content. @throws AppError `pictureTooLarge`, and as `askRaw` */
export async function rawFacts(bytes: Buffer, wishes: RawWishes): Promise<PictureFacts> {
  const head = await headKnown(bytes, wishes)
  checkSize(head, wishes.path)
  return factsOf(head)
}

function factsOf({ metadata, size, colour }: RawHead): PictureFacts {
  const camera = [metadata.camera_make, metadata.camera_model]
    .map((part) => part.trim())
    .filter(Boolean)
    .join(' ')
  return {
    size,
    format: 'raw',
    bits: 16,
    space: metadata.colors === 1 ? 'grey16' : 'camera',
    hasAlpha: false,
    ...(metadata.iso_speed > 0 ? { iso: Math.round(metadata.iso_speed) } : {}),
    ...(camera ? { camera } : {}),
    ...(metadata.lens.Lens.trim() ? { lens: metadata.lens.Lens.trim() } : {}),
    ...(metadata.timestamp > 0 ? { taken: new Date(metadata.timestamp * 1000).toISOString().slice(0, 19) } : {}),
    ...(colour ? { raw: colour } : {}),
  }
}

/** Turns clockwise of each way the decoder turns, mirrored ones left out. */
const turns: Readonly<Record<number, number>> = { 3: 180, 5: 270, 6: 90 }

/** The picture that the camera put into the file, upright, as a small JPEG; undefined where there is none that can be read, or a smaller one. */
export async function rawPreview(bytes: Uint8Array, wishes: RawWishes, edge: number): Promise<Buffer | undefined> {
  const found = await askRaw('preview', bytes, wishes)
  if (!found) return undefined
  try {
    const image = sharp(found.jpeg)
    const { width = 0, height = 0, orientation } = await image.metadata()
    if (Math.max(width, height) < edge) return undefined
    // Some previews say how they lie; for the others the file does.
    const upright = orientation ? image.autoOrient() : image.rotate(turns[found.flip] ?? 0)
    return await upright
      .resize(edge, edge, { fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .jpeg({ quality: 82, chromaSubsampling: '4:4:4' })
      .toBuffer()
  } catch {
    return undefined
  }
}
