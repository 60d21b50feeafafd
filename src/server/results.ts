import { readFile } from 'node:fs/promises'
import { basename, extname, relative, sep } from 'node:path'
import { Readable } from 'node:stream'
import sharp from 'sharp'
import yazl from 'yazl'
import { AppError } from '@/core/errors'
import * as store from '@/db/runs'
import { readerOptions } from '@/pictures/facts'
import type { Context } from './context'
import { fileExists } from './files'
import { deliveredPath } from './runs'

const types: Readonly<Record<string, string>> = { '.jpg': 'image/jpeg', '.png': 'image/png', '.webp': 'image/webp', '.avif': 'image/avif' }

/** A delivered picture as a page can show it, pixel for pixel: the file itself, or, where browsers can't read its kind, a PNG of it. */
export async function shownResult(context: Context, resultId: number): Promise<{ bytes: Uint8Array<ArrayBuffer>; type: string }> {
  const path = context.roots.check(deliveredPath(context, resultId))
  const type = types[extname(path).toLowerCase()]
  const bytes = await (type
    ? readFile(path)
    : sharp(path, readerOptions).toColourspace('srgb').png({ compressionLevel: 3 }).toBuffer()
  ).catch(() => {
    throw new AppError('fileMissing', { path })
  })
  return { bytes: new Uint8Array(bytes), type: type ?? 'image/png' }
}

/** All that a run delivered and that is still there, as one archive, streamed. Pictures are not compressed again. */
export async function zipOfRun(context: Context, runId: string): Promise<{ stream: ReadableStream; name: string }> {
  const run = store.findRun(context.db, runId)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  const zip = new yazl.ZipFile()
  for (const { results } of store.listItems(context.db, runId))
    for (const { targetPath, deliveryId, hash } of results) {
      const delivery = run.deliveries.find(({ id }) => id === deliveryId)
      if (!hash || !delivery || !context.roots.allows(targetPath) || !(await fileExists(targetPath))) continue
      const inside = relative(delivery.folder, targetPath).split(sep).join('/')
      const folder = run.deliveries.length > 1 ? `${basename(delivery.folder)}/` : ''
      zip.addFile(targetPath, `${folder}${inside}`, { compress: false })
    }
  zip.end()
  const stream = Readable.toWeb(zip.outputStream as Readable) as ReadableStream
  return { stream, name: `${run.loopName} ${run.number}.zip` }
}
