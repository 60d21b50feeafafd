import { basename, relative, sep } from 'node:path'
import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { kindToRead, pictureError, readerOptions } from '@/files/facts'
import { headBytes } from '@/files/loaders'
import { readRegular } from '@/files/open-file'
import { isShownAsItIs } from '@/services/runs/shown-type'
import * as store from '@/store/runs'
import type { Context } from '../context'
import { fileExists } from '../files'
import { deliveredPath } from './summary'

/** A delivered picture as a page can show it, pixel for pixel: the file itself, or, where browsers can't read its kind, a PNG of it. */
export async function shownResult(context: Context, resultId: number): Promise<Uint8Array> {
  const path = context.roots.check(deliveredPath(context, resultId))
  const bytes = await readRegular(path, context.roots)
  if (isShownAsItIs(path)) return bytes
  kindToRead(bytes.subarray(0, headBytes), path)
  return sharp(bytes, readerOptions)
    .toColourspace('srgb')
    .png({ compressionLevel: 3 })
    .toBuffer()
    .catch((error: unknown) => {
      throw pictureError(error, path)
    })
}

/** One file of an archive. */
export interface ZipEntry {
  /** Where it really lies. */
  readonly path: string
  readonly name: string
}

/** All that a run delivered and that is still there. */
export async function zipEntries(context: Context, runId: string): Promise<{ entries: readonly ZipEntry[]; name: string }> {
  const run = store.findRun(context.db, runId)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  const entries: ZipEntry[] = []
  for (const { results } of store.listItemsBriefly(context.db, runId))
    for (const { targetPath, deliveryId, hash } of results) {
      const delivery = run.deliveries.find(({ id }) => id === deliveryId)
      // What is on pages goes out with these.
      if (!hash || !delivery || delivery.gather || !context.roots.allows(targetPath) || !(await fileExists(targetPath))) continue
      const inside = relative(delivery.folder, targetPath).split(sep).join('/')
      const folder = run.deliveries.length > 1 ? `${basename(delivery.folder)}/` : ''
      entries.push({ path: context.roots.check(targetPath), name: `${folder}${inside}` })
    }
  for (const { path, problem } of run.gathered)
    if (problem === null && context.roots.allows(path) && (await fileExists(path)))
      entries.push({ path: context.roots.check(path), name: basename(path) })
  return { entries, name: `${run.loopName} ${run.number}.zip` }
}
