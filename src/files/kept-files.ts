import { createHash } from 'node:crypto'
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import opentype from 'opentype.js'
import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { CubeError, parseCube } from '@/colour/cube'
import type { Asset } from '@/pixels/kept-file'
import { kindToRead } from './facts'
import { headBytes } from './loaders'

/** Stamps larger than this are reduced when they are kept in memory: no delivery shows more of them. */
const maxStampEdge = 4096
export const maxKeptBytes = 32 << 20

const isLook = (name: string): boolean => name.toLowerCase().endsWith('.cube')

const isFace = (name: string): boolean => /\.(otf|ttf|woff)$/i.test(name)

/** A face as it is set in; read once here, so that what is no face is refused when it is chosen. */
function faceFrom(bytes: Buffer, name: string): Asset {
  const own = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer
  try {
    opentype.parse(own)
  } catch {
    throw noFace(name)
  }
  return { kind: 'font', bytes: own }
}

/** A WOFF2 face unpacked to what it was packed from: nobody who reads it later needs to know that packing. */
async function unpackedFace(bytes: Buffer, name: string): Promise<{ bytes: Buffer; name: string }> {
  if (!/\.woff2$/i.test(name)) return { bytes, name }
  try {
    const { decompress } = await import('wawoff2')
    return { bytes: Buffer.from(await decompress(bytes)), name: name.replace(/\.woff2$/i, '.ttf') }
  } catch {
    throw noFace(name)
  }
}

const noFace = (name: string): AppError =>
  new AppError('fileNotUsable', { name, reason: 'it is no face of the kinds OpenType, TrueType, WOFF or WOFF2' })

/** Turns a kept file's bytes into what steps use. @throws AppError `fileNotUsable` */
export async function assetFrom(bytes: Buffer, name: string): Promise<Asset> {
  if (isLook(name)) {
    try {
      return { kind: 'look', look: parseCube(bytes.toString('utf8')) }
    } catch (error) {
      if (error instanceof CubeError) throw new AppError('fileNotUsable', { name, reason: error.message })
      throw error
    }
  }
  if (isFace(name)) return faceFrom(bytes, name)
  try {
    kindToRead(bytes.subarray(0, headBytes), name)
    const { data, info } = await sharp(bytes, { limitInputPixels: 1e8 })
      .autoOrient()
      .resize(maxStampEdge, maxStampEdge, { fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    return { kind: 'image', size: { width: info.width, height: info.height }, pixels: new Uint8Array(data) }
  } catch {
    throw new AppError('fileNotUsable', { name, reason: 'it is neither a picture, nor a .cube look, nor a face' })
  }
}

/**
 * Keeps a file by its content: moving or deleting the original can never break a macro. Checked before it is kept.
 * @returns what a macro says of it: hash and name.
 */
export async function keepFile(folder: string, given: Buffer, givenName: string): Promise<string> {
  if (given.length > maxKeptBytes) throw new AppError('fileNotUsable', { name: givenName, reason: 'it is larger than 32 MB' })
  const { bytes, name } = await unpackedFace(given, givenName)
  await assetFrom(bytes, name)
  const hash = createHash('sha256').update(bytes).digest('hex')
  await mkdir(folder, { recursive: true })
  const path = join(folder, hash)
  await writeFile(`${path}.${process.pid}.part`, bytes)
  await rename(`${path}.${process.pid}.part`, path)
  const plain = name.replace(/[/\\\p{Cc}]/gu, '_').slice(-120) || 'file'
  return `${hash}/${plain}`
}

/** @throws AppError `keptFileMissing` */
export async function readAsset(folder: string, hash: string, name: string): Promise<Asset> {
  if (!/^[0-9a-f]{64}$/.test(hash)) throw new AppError('keptFileMissing', { name })
  const bytes = await readFile(join(folder, hash)).catch(() => {
    throw new AppError('keptFileMissing', { name })
  })
  return assetFrom(bytes, name)
}

/** A face that ships with the application. */
export async function readFace(folder: string, id: string): Promise<Asset> {
  const bytes = await readFile(join(folder, `${id}.woff`)).catch(() => {
    throw new AppError('keptFileMissing', { name: `${id}.woff` })
  })
  return { kind: 'font', bytes: bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer }
}
