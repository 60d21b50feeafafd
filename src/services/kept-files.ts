import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { AppError } from '@/base/errors'
import { framed, type KeptFileHeader } from '@/contract/framing'
import { keepFile, readAsset } from '@/files/kept-files'
import type { Context } from './context'

export const keptFilesFolder = (dataFolder: string): string => join(dataFolder, 'files')

/** Keeps a file by its content. @returns the value for a step's setting */
export const keepBytes = (dataFolder: string, bytes: Buffer, name: string): Promise<string> =>
  keepFile(keptFilesFolder(dataFolder), bytes, name)

/** A kept file as it is. @throws AppError `notFound` */
export async function keptBytes(dataFolder: string, hash: string): Promise<Buffer> {
  if (!/^[0-9a-f]{64}$/.test(hash)) throw new AppError('notFound', { what: 'That file' })
  return readFile(join(keptFilesFolder(dataFolder), hash)).catch(() => {
    throw new AppError('notFound', { what: 'That file' })
  })
}

/** What is sent of a kept file: what it is, and its numbers. */
export async function sentAsset(context: Context, hash: string, name: string): Promise<Uint8Array<ArrayBuffer>> {
  const asset = await readAsset(keptFilesFolder(context.dataFolder), hash, name)
  if (asset.kind === 'font') return framed({ kind: 'font' } satisfies KeptFileHeader, [new Uint8Array(asset.bytes)])
  if (asset.kind === 'image') {
    const { pixels, ...header } = asset
    return framed(header satisfies KeptFileHeader, [pixels])
  }
  const { values, ...look } = asset.look
  return framed({ kind: 'look', look } satisfies KeptFileHeader, [values])
}
