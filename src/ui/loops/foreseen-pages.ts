import dayjs from 'dayjs'
import { counted } from '@/base/format'
import { folderOf } from '@/base/paths'
import type { PreflightView } from '@/contract/answers'
import type { Delivery } from '@/jobs/delivery'
import { formatOf, type Gather } from '@/jobs/gather'
import { type Laid, layPages, type Page } from '@/sheets/layout'
import { expandPageLine, type PageWords } from '@/sheets/words'

/* The pages that a delivery would make, as far as a check of its loop tells. */

export interface OnPage extends Laid {
  readonly sourcePath: string
  readonly captions: readonly string[]
}

const onPages = (check: PreflightView | undefined, deliveryId: string): OnPage[] =>
  (check?.pictures ?? [])
    .toSorted((a, b) => a.place - b.place)
    .flatMap(({ sourcePath, relativePath, targets, error, touchUp }) => {
      const target = targets.find((each) => each.deliveryId === deliveryId)
      if (!target || error || touchUp?.setAside) return []
      return [{ sourcePath, folder: folderOf(relativePath), size: target.size, captions: target.captions ?? [] }]
    })

export interface ForeseenPages {
  readonly pages: readonly Page[]
  readonly pictures: readonly OnPage[]
}

export function foreseenPages(check: PreflightView | undefined, deliveryId: string, gather: Gather): ForeseenPages {
  const pictures = onPages(check, deliveryId)
  return { pictures, pages: layPages(gather, pictures) }
}

/** What head and foot of a page draw on. */
export const pageWords = (check: PreflightView | undefined, loop: string, delivery: string, page: number, pages: number): PageWords => ({
  ...{ loop, delivery, page, pages },
  run: String(check?.runNumber ?? 1),
  today: dayjs().format('YYYY-MM-DDTHH:mm:ss'),
})

/** A line that is still being written may be none yet: then it is shown as it is. */
export function expandWhileWritten(line: string, words: PageWords): string {
  try {
    return expandPageLine(line, words)
  } catch {
    return line
  }
}

/** `Firing 27.pdf, 2 pages`: what a delivery on pages would write. */
export function describePages(check: PreflightView, { id, name, gather }: Delivery, loop: string): string | undefined {
  if (!gather) return undefined
  const { pages } = foreseenPages(check, id, gather)
  const stem = expandWhileWritten(gather.fileName, pageWords(check, loop, name, 1, pages.length))
  // Of a very long list only its beginning is told.
  return `${stem}.${formatOf(gather)}, ${check.notShown > 0 ? 'more than ' : ''}${counted(pages.length, 'page')}`
}
