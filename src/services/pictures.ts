import { createHash, randomUUID } from 'node:crypto'
import { mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { framed, type PixelHeader, unframed } from '@/contract/framing'
import { decodePicture, reducedLight } from '@/files/decode'
import { kindToRead, pictureError, readerOptions, readFacts } from '@/files/facts'
import { headBytes } from '@/files/loaders'
import { readRegular } from '@/files/open-file'
import { isRawName } from '@/jobs/picture-names'
import { addedToCache, cacheFolder } from './cache'
import type { Context } from './context'
import { fileExists } from './files'
import { rawThumbnail } from './raw-thumbnail'

/** A source's pixels for the bench, full or reduced to an edge: a `PixelHeader`, the pixels, their opacity. */
export async function sourcePixels(context: Context, path: string, maxEdge?: number): Promise<Uint8Array<ArrayBuffer>> {
  const real = context.roots.check(path)
  if (!maxEdge || !isRawName(real)) return readPixels(context, real, maxEdge)
  // The decoder needs seconds for a raw file, however small it is wanted.
  const edge = Math.max(maxEdge, decodedEdge)
  const cached = await placeInCache(context, real, `reduced/${reducedEdition}`, edge)
  const pixels = await madeOnce(pixelsInTheMaking, cached, () => keptPixels(context, real, edge, cached))
  return edge === maxEdge ? pixels : ((await madeSmaller(pixels, maxEdge)) ?? readPixels(context, real, maxEdge))
}

/** A raw file that is wanted this small or smaller is decoded once: what is smaller is made of that. */
const decodedEdge = 640
/** Rises with every change of what is made of a raw file. */
const reducedEdition = 1

async function keptPixels(context: Context, path: string, edge: number, cached: string): Promise<Uint8Array<ArrayBuffer>> {
  const kept = await readFile(cached).catch(() => undefined)
  if (kept) return new Uint8Array(kept)
  const made = await readPixels(context, path, edge)
  // What can't be kept, as on a full disk, is made again next time.
  await keepInCache(context, cached, made).catch(() => undefined)
  return made
}

/** The same pixels for a smaller picture; nothing where they are no raw file's, whatever its name. */
async function madeSmaller(pixels: Uint8Array<ArrayBuffer>, maxEdge: number): Promise<Uint8Array<ArrayBuffer> | undefined> {
  const { header, at } = unframed<PixelHeader>(pixels.buffer)
  const { size, colour, bits, hasOpacity } = header
  if (bits !== 16 || hasOpacity) return undefined
  const { size: smaller, pixels: codes } = await reducedLight(
    { kind: 'interleaved', size, colour, pixels: new Uint16Array(pixels.buffer, at) },
    maxEdge,
  )
  return framed({ ...header, size: smaller }, [codes])
}

async function readPixels(context: Context, path: string, maxEdge?: number): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = await readRegular(path, context.roots)
  const [{ source }, facts] = await Promise.all([decodePicture(bytes, path, { maxEdge }), readFacts(bytes, path)])
  const bits = source.pixels instanceof Uint16Array ? 16 : 8
  const header: PixelHeader = { size: source.size, colour: source.colour, bits, hasOpacity: source.alpha !== undefined, facts }
  return framed(header, [source.pixels, ...(source.alpha ? [source.alpha] : [])])
}

/** Where something made of a file lies in the cache, by the file's path, size and time. `path`: its real one. */
async function placeInCache(context: Context, path: string, kind: string, edge: number): Promise<string> {
  const known = await stat(path).catch(() => {
    throw new AppError('fileMissing', { path })
  })
  const key = createHash('sha1').update(`${path}\0${known.size}\0${known.mtimeMs}\0${edge}`).digest('hex')
  return join(cacheFolder(context.dataFolder), kind, key.slice(0, 2), key)
}

async function keepInCache(context: Context, place: string, made: Uint8Array): Promise<void> {
  const temporary = `${place}.${randomUUID()}`
  await mkdir(dirname(place), { recursive: true })
  await writeFile(temporary, made)
  await rename(temporary, place)
  addedToCache(context, made.length)
}

/** Edges that small pictures are made in; any other wish gets the next larger. */
const thumbnailEdges = [160, 320, 640, 1280] as const

/** A small JPEG of a picture, kept in the cache under its path, size and time: the file that holds it. */
export async function thumbnailFile(context: Context, path: string, wantedEdge: number): Promise<string> {
  const real = context.roots.check(path)
  const edge = thumbnailEdges.find((candidate) => candidate >= wantedEdge) ?? 1280
  const cached = `${await placeInCache(context, real, 'thumbnails', edge)}.jpg`
  if (await fileExists(cached)) return cached
  return madeOnce(thumbnailsInTheMaking, cached, () => makeAndKeep(context, real, edge, cached))
}

const thumbnailsInTheMaking = new Map<string, Promise<string>>()
const pixelsInTheMaking = new Map<string, Promise<Uint8Array<ArrayBuffer>>>()

/** Whoever asks for what is being made gets that. */
function madeOnce<T>(inTheMaking: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const making = inTheMaking.get(key) ?? make().finally(() => inTheMaking.delete(key))
  inTheMaking.set(key, making)
  return making
}

async function makeAndKeep(context: Context, path: string, edge: number, cached: string): Promise<string> {
  await keepInCache(context, cached, await makeThumbnail(await readRegular(path, context.roots), path, edge))
  return cached
}

async function makeThumbnail(bytes: Buffer, path: string, edge: number): Promise<Buffer> {
  if (kindToRead(bytes.subarray(0, headBytes), path) === 'raw') return rawThumbnail(bytes, path, edge)
  try {
    return await sharp(bytes, readerOptions)
      .autoOrient()
      .flatten({ background: '#ffffff' })
      .resize(edge, edge, { fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .jpeg({ quality: 82, chromaSubsampling: '4:4:4' })
      .toBuffer()
  } catch (error) {
    throw pictureError(error, path)
  }
}
