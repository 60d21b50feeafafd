import { readFile, stat } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import dayjs from 'dayjs'
import { AppError } from '@/base/errors'
import { built } from '@/files/built'
import { expandLine, type NameContext } from '@/files/names'
import type { Delivery } from '@/jobs/delivery'
import type { Gather } from '@/jobs/gather'
import type { PictureFacts } from '@/pixels/picture'
import type { Book, BookPicture } from '@/sheets/book'
import { layPages } from '@/sheets/layout'
import { pageFaces } from '@/sheets/type'
import type { StoredRun } from '@/store/runs'
import type { Context } from '../context'
import { knownFacts } from '../preflight/known-facts'

/** A picture of the set: the file that was made of it, and what is known of its source. */
export interface SetPicture {
  readonly sourcePath: string
  readonly relativePath: string
  readonly file: string
  readonly hash: string
  readonly width: number
  readonly height: number
}

/** What pages are made of: of a run, under the name of a delivery. */
/** Where faces lie: beside the built processes, or where tests find them. */
export const readFaces = (folder = built('fonts')): Promise<Uint8Array[]> =>
  Promise.all(pageFaces.map((face) => readFile(join(folder, `${face}.woff`))))

export async function bookOf(
  { roots }: Context,
  run: StoredRun,
  delivery: Delivery,
  gather: Gather,
  pictures: readonly SetPicture[],
): Promise<Book> {
  const today = dayjs(run.createdAt).format('YYYY-MM-DDTHH:mm:ss')
  const inFolder = new Map<string, number>()
  const laid: BookPicture[] = []
  for (const [index, picture] of pictures.entries()) {
    const folder = dirname(picture.relativePath)
    const indexInFolder = inFolder.get(folder) ?? 0
    inFolder.set(folder, indexInFolder + 1)
    const size = { width: picture.width, height: picture.height }
    const source = await stat(picture.sourcePath).catch(() => undefined)
    const facts =
      source && (await knownFacts({ path: picture.sourcePath, sizeBytes: source.size, modifiedMs: Math.floor(source.mtimeMs) }, roots))
    const subject: NameContext = {
      name: basename(picture.sourcePath, extname(picture.sourcePath)),
      folders: [
        basename(dirname(picture.sourcePath).slice(0, -(folder === '.' ? 0 : folder.length + 1)) || '/'),
        ...(folder === '.' ? [] : folder.split('/')),
      ],
      index,
      indexInFolder,
      // Of a source that has gone since, only its size and name are known.
      facts: facts && !(facts instanceof AppError) ? facts : ({ size } as PictureFacts),
      deliveredSize: size,
      macro: run.macros.at(-1)?.name ?? '',
      loop: run.loopName,
      delivery: delivery.name,
      run: String(run.number),
      today,
      answers: run.answers,
    }
    laid.push({
      path: picture.file,
      name: basename(picture.file, extname(picture.file)),
      size,
      folder,
      captions: gather.captions.filter((line) => line.trim() !== '').map((line) => expandLine(line, subject)),
    })
  }
  const words = { loop: run.loopName, delivery: delivery.name, run: String(run.number), today }
  return {
    ...{ gather, pictures: laid, pages: layPages(gather, laid), words },
    title: gather.title.trim() || run.loopName,
    author: gather.author.trim(),
    madeAt: Math.floor(run.createdAt / 1000) * 1000,
    faces: await readFaces(),
  }
}
