import type { FileHandle } from 'node:fs/promises'
import sharp from 'sharp'
import { AppError, reasonOf } from '@/base/errors'
import type { PictureFacts } from '@/pixels/picture'
import { headBytes, kindOf, type PictureKind } from './loaders'
import { tagReader } from './metadata/tag-reader'
import { openRegular, pathOfHandle } from './open-file'
import { isDescribedWithin } from './raw/kinds'
import { rawFacts, rawHeadBytes } from './raw/read-raw'
import type { Roots } from './roots'

/** The most that is taken: enough for any stitched picture, small enough to fit a worker's memory. */
export const maxMegapixels = 400

export const readerOptions = { limitInputPixels: maxMegapixels * 1e6, failOn: 'error', sequentialRead: true } as const

/**
 * Reads the facts of a file, from its bytes or, reading no more than its head, from the file itself.
 * @throws AppError `fileEmpty`, `notAPicture`, `pictureTooLarge`, and as `openRegular`
 */
export async function readFacts(input: Buffer | string, path: string, roots?: Roots): Promise<PictureFacts> {
  if (typeof input !== 'string') return factsFrom(input, input, path)
  const file = await openRegular(input, roots)
  try {
    const head = Buffer.alloc(headBytes)
    const { bytesRead } = await file.read(head, 0, headBytes, 0)
    if (kindToRead(head.subarray(0, bytesRead), path) === 'raw') return await factsOfRaw(await rawHead(file), path)
    return await factsFrom(head.subarray(0, bytesRead), process.platform === 'linux' ? pathOfHandle(file) : input, path)
  } finally {
    await file.close()
  }
}

async function factsFrom(head: Buffer, input: Buffer | string, path: string): Promise<PictureFacts> {
  const kind = kindToRead(head.subarray(0, headBytes), path)
  if (kind === 'raw') return factsOfRaw(input as Buffer, path)
  try {
    const m = await sharp(input, readerOptions).metadata()
    const turned = (m.orientation ?? 1) >= 5
    const [width, height] = [m.width ?? 0, m.height ?? 0]
    return {
      size: turned ? { width: height, height: width } : { width, height },
      format: kind,
      bits: m.depth === 'uchar' ? 8 : m.depth === 'ushort' ? 16 : 32,
      space: m.space ?? 'srgb',
      hasAlpha: m.hasAlpha ?? false,
      ...((m.pages ?? 1) > 1 ? { frames: m.pages } : {}),
      ...(await cameraFacts(input)),
    }
  } catch (error) {
    throw pictureError(error, path)
  }
}

/** As much of a raw file as says all but its picture; where that lies elsewhere, all of it. */
async function rawHead(file: FileHandle): Promise<Buffer> {
  const head = Buffer.alloc(rawHeadBytes)
  const { bytesRead } = await file.read(head, 0, rawHeadBytes, 0)
  const part = head.subarray(0, bytesRead)
  return isDescribedWithin(part) ? part : file.readFile()
}

/** The decoder knows size and colours; a raw file that is a TIFF tells more of the rest. */
async function factsOfRaw(bytes: Buffer, path: string): Promise<PictureFacts> {
  const [facts, told] = await Promise.all([rawFacts(bytes, { path }), cameraFacts(bytes)])
  const known = Object.fromEntries(Object.entries(told).filter(([, value]) => value !== undefined))
  return { ...facts, ...known }
}

/** What a file is by its first bytes. @throws AppError `fileEmpty`, `notAPicture` */
export function kindToRead(head: Uint8Array, path: string): PictureKind {
  if (head.length === 0) throw new AppError('fileEmpty', { path })
  const kind = kindOf(head, path)
  if (!kind) throw new AppError('notAPicture', { path })
  return kind
}

const readTags = tagReader({ iptc: true, xmp: true, icc: false, reviveValues: false, pick: undefined })

/** XMP brings some values with their language. */
const valueIn = (tag: unknown): unknown => (typeof tag === 'object' && tag !== null && 'value' in tag ? tag.value : tag)

async function cameraFacts(input: Buffer | string): Promise<Partial<PictureFacts>> {
  const tags = await readTags(input)
  if (!tags) return {}
  const text = (value: unknown): string | undefined => (typeof value === 'string' && value.trim() ? value.trim() : undefined)
  const words = [tags.Keywords ?? tags.subject ?? []].flat().flatMap((word) => text(word) ?? [])
  return {
    taken: isoTime(text(tags.DateTimeOriginal) ?? text(tags.CreateDate)),
    iso: Number.isFinite(tags.ISO) ? Number(tags.ISO) : undefined,
    camera: text([text(tags.Make), text(tags.Model)].filter(Boolean).join(' ')),
    lens: text(tags.LensModel),
    title: text(tags.ObjectName) ?? text(valueIn(tags.title)),
    keywords: words.length > 0 ? words : undefined,
  }
}

/** EXIF writes `2026:03:14 09:30:00`. */
function isoTime(exifTime: string | undefined): string | undefined {
  const match = exifTime?.match(/^(\d{4})[:-](\d\d)[:-](\d\d)[ T](\d\d:\d\d:\d\d)/)
  return match ? `${match[1]}-${match[2]}-${match[3]}T${match[4]}` : undefined
}

/** What libvips said, as one of our own errors. */
export function pictureError(error: unknown, path: string): AppError {
  if (error instanceof AppError) return error
  const reason = reasonOf(error)
  if (/unsupported image format|bad seek|not a known|Input buffer contains|Input file contains/i.test(reason))
    return new AppError('notAPicture', { path }, { cause: error })
  if (/pixel limit/i.test(reason)) return new AppError('pictureTooLarge', { path, limit: maxMegapixels }, { cause: error })
  return new AppError('pictureDamaged', { path }, { cause: error })
}
