import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import yauzl from 'yauzl'
import yazl from 'yazl'
import { AppError, reasonOf, systemCode } from '@/base/errors'
import { keepFile } from '@/files/kept-files'
import { macroOfSidecar } from '@/jobs/sidecar'
import { macroLimits, readMacroFile, writeMacroFile } from '@/macros/codec'
import { keptFilesOf } from '@/macros/kept-files'
import { readyStep, type Step } from '@/macros/step'
import { withLook } from '@/operations'
import { keptFileHash, keptFileName } from '@/pixels/kept-file'
import type { Context } from './context'
import { keptFilesFolder } from './kept-files'
import { keepNumbered, macroById, type ShelfMacro } from './macros'

/** What a bundle may hold at most, unpacked. */
export const bundleLimits = { bytes: 64 << 20, entries: 200 } as const

const macroEntry = /^[^/\\]+\.macro\.json$/
export const fileEntry = /^files\/[0-9a-f]{64}$/
const isOfMacro = (entry: string): boolean => macroEntry.test(entry) || fileEntry.test(entry)

/** A macro with the files it needs, as a zip: the macro file, and `files/` by SHA-256. @throws AppError `notFound`, `keptFileMissing` */
export async function exportBundle(context: Context, id: string): Promise<Buffer> {
  const macro = macroById(context, id)
  const zip = new yazl.ZipFile()
  zip.addBuffer(Buffer.from(writeMacroFile(macro)), `${entryName(macro.name)}.macro.json`)
  await addKeptFiles(context, zip, macro.steps)
  zip.end()
  return buffer(zip.outputStream)
}

/** A name as an entry of a zip may have it. */
export const entryName = (name: string): string => name.replace(/[/\\\p{Cc}]/gu, '_')

/** The files that steps need, each once, by their hash. @throws AppError `keptFileMissing` */
export async function addKeptFiles({ dataFolder }: Context, zip: yazl.ZipFile, steps: readonly Step[]): Promise<void> {
  const byHash = new Map(keptFilesOf(steps).map((value) => [keptFileHash(value), keptFileName(value)]))
  for (const [hash, name] of byHash) {
    const bytes = await readFile(join(keptFilesFolder(dataFolder), hash)).catch(() => {
      throw new AppError('keptFileMissing', { name })
    })
    zip.addBuffer(bytes, `files/${hash}`)
  }
}

export const invalid = (name: string, reason: string): AppError => new AppError('bundleInvalid', { name, reason })

/**
 * The entries of a bundle, unpacked; `isWanted`: which names belong in it. Nothing is written: names are looked at, not followed. Other names than a bundle's own, links,
 * and more than 64 MiB are refused before anything is unpacked.
 * @throws AppError `bundleInvalid`
 */
export async function readBundle(zip: Buffer, name: string, isWanted = isOfMacro): Promise<Map<string, Buffer>> {
  try {
    const reader = await yauzl.fromBufferPromise(zip, { validateEntrySizes: true, strictFileNames: true })
    if (reader.entryCount > bundleLimits.entries) throw invalid(name, `it holds more than ${bundleLimits.entries} files`)
    const entries = new Map<string, Buffer>()
    let total = 0
    for await (const entry of reader.eachEntry()) {
      const isFolder = entry.fileName.endsWith('/')
      if (isFolder) continue
      if (!isWanted(entry.fileName)) throw invalid(name, `"${entry.fileName}" does not belong in a bundle`)
      // The upper half of the external attributes holds the mode of Unix systems; 0o120000 is a link.
      if (((entry.externalFileAttributes >>> 16) & 0o170000) === 0o120000) throw invalid(name, `"${entry.fileName}" is a link`)
      total += entry.uncompressedSize
      if (total > bundleLimits.bytes) throw invalid(name, `it unpacks to more than ${bundleLimits.bytes >> 20} MB`)
      entries.set(entry.fileName, await buffer(await reader.openReadStreamPromise(entry)))
    }
    return entries
  } catch (error) {
    throw error instanceof AppError ? error : invalid(name, systemCode(error) ? reasonOf(error) : 'it is no whole zip file')
  }
}

/** Takes a bundle in: its files first, then its macro. A bundle that does not hold together leaves nothing on the shelf. */
async function importBundle(context: Context, zip: Buffer, name: string): Promise<ShelfMacro> {
  const entries = await readBundle(zip, name)
  const files = [...entries].filter(([entry]) => macroEntry.test(entry))
  const [file] = files
  if (!file || files.length > 1) throw invalid(name, `it must hold one macro file, not ${files.length}`)
  const macro = readMacroFile(file[1].toString('utf8'))
  await takeKeptFiles(context, entries, { steps: macro.steps, name })
  return keepNumbered(context, macro)
}

/** Keeps the files of a bundle that steps need, once all of them are found to be there and whole. @throws AppError `bundleInvalid` */
export async function takeKeptFiles(
  context: Context,
  entries: ReadonlyMap<string, Buffer>,
  { steps, name }: { readonly steps: readonly Step[]; readonly name: string },
): Promise<void> {
  const wanted = keptFilesOf(steps).map((value) => {
    const hash = keptFileHash(value)
    const bytes = entries.get(`files/${hash}`)
    if (!bytes) throw invalid(name, `the file ${keptFileName(value)} is missing from it`)
    if (createHash('sha256').update(bytes).digest('hex') !== hash)
      throw invalid(name, `the file ${keptFileName(value)} is not what its name says`)
    return { bytes, fileName: keptFileName(value) }
  })
  for (const { bytes, fileName } of wanted) await keepFile(keptFilesFolder(context.dataFolder), bytes, fileName)
}

/** A look becomes a macro of one step. */
async function importLook(context: Context, bytes: Buffer, name: string): Promise<ShelfMacro> {
  const file = await keepFile(keptFilesFolder(context.dataFolder), bytes, name)
  const macroName =
    name
      .replace(/\.cube$/i, '')
      .trim()
      .slice(0, macroLimits.nameLength) || 'Look'
  return keepNumbered(context, { name: macroName, notes: '', tags: ['look'], steps: [readyStep(withLook(file), 'look')] })
}

/** Takes in what somebody chose: a macro file, a bundle, or a look. */
export async function importFile(context: Context, bytes: Buffer, name: string): Promise<ShelfMacro> {
  if (bytes.length > bundleLimits.bytes) throw invalid(name, `it is larger than ${bundleLimits.bytes >> 20} MB`)
  if (bytes.subarray(0, 2).toString('latin1') === 'PK') return importBundle(context, bytes, name)
  if (/\.cube$/i.test(name)) return importLook(context, bytes, name)
  const text = bytes.toString('utf8')
  return keepNumbered(context, macroOfSidecar(text) ?? readMacroFile(text))
}
