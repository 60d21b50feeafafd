import type { Gather } from '@/jobs/gather'
import type { Laid, Page } from './layout'
import type { PageWords } from './words'

/** A picture for the pages: its file, what it is called in the bookmarks, and the lines under it. */
export interface BookPicture extends Laid {
  readonly path: string
  readonly name: string
  readonly captions: readonly string[]
}

/** All that pages are made of. */
export interface Book {
  readonly gather: Gather
  readonly pages: readonly Page[]
  readonly pictures: readonly BookPicture[]
  /** What head and foot lines draw on, but for the page. */
  readonly words: Omit<PageWords, 'page' | 'pages'>
  readonly title: string
  readonly author: string
  /** When the set was made, ms since 1970: the same book is the same bytes. */
  readonly madeAt: number
  /** The faces' files, in the order of `pageFaces`. */
  readonly faces: readonly Uint8Array[]
}

/** Told after each picture. */
export type OnPicture = (done: number) => void
