import { join } from 'node:path'
import { AppError } from '@/base/errors'
import { keepFile, readAsset } from '@/files/kept-files'
import type { Context } from './context'

export const keptFilesFolder = (dataFolder: string): string => join(dataFolder, 'files')

/** Keeps a file by its content. @returns the value for a step's setting */
export const keepBytes = (dataFolder: string, bytes: Buffer, name: string): Promise<string> =>
  keepFile(keptFilesFolder(dataFolder), bytes, name)

/** What is sent of a kept file: length of the header (4 bytes, little-endian), the header as JSON, the numbers. */
export async function sentAsset(context: Context, hash: string, name: string): Promise<Uint8Array<ArrayBuffer>> {
  const asset = await readAsset(keptFilesFolder(context.dataFolder), hash, name)
  if (asset.kind === 'font') throw new AppError('fileNotUsable', { name, reason: 'faces are not kept files' })
  const [head, numbers] =
    asset.kind === 'image'
      ? [{ kind: asset.kind, size: asset.size }, asset.pixels]
      : [{ kind: asset.kind, look: { ...asset.look, values: null } }, new Uint8Array(asset.look.values.buffer)]
  const text = Buffer.from(JSON.stringify(head))
  const padded = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, ' ')])
  const result = new Uint8Array(4 + padded.length + numbers.length)
  new DataView(result.buffer).setUint32(0, padded.length, true)
  result.set(padded, 4)
  result.set(numbers, 4 + padded.length)
  return result
}
