import { changed, expandTokens, formatTokenDate, isChange, PatternError, parseTokens, splitField, type TokenField } from '@/base/tokens'

/* Head and foot lines of pages, and the names of their files. */

/** What the lines at the head and the foot of a page can draw on. */
export interface PageWords {
  readonly loop: string
  readonly delivery: string
  readonly run: string
  /** ISO 8601 local time of the run's start. */
  readonly today: string
  readonly page: number
  readonly pages: number
}

const readers: Readonly<Record<string, (words: PageWords, argument: string) => string>> = {
  loop: ({ loop }, argument) => changed(loop, argument),
  delivery: ({ delivery }, argument) => changed(delivery, argument),
  run: ({ run }) => run,
  today: ({ today }, argument) => formatTokenDate(today, argument),
  page: ({ page }) => String(page),
  pages: ({ pages }) => String(pages),
}
/** Fields of head and foot lines, and of names of pages. */
export const pageFields = Object.keys(readers).sort()

function parseField(text: string): TokenField {
  const field = splitField(text)
  if (!Object.hasOwn(readers, field.name)) throw new PatternError(`{${text}} is not a field here. There are: ${pageFields.join(', ')}`)
  if (field.argument && field.name !== 'today' && !isChange(field.argument))
    throw new PatternError(`{${text}}: after the colon goes lower, upper or plain`)
  return field
}

/** @throws PatternError */
export const checkPageLine = (line: string): void => void parseTokens(line, parseField)

/** @throws PatternError */
export const expandPageLine = (line: string, words: PageWords): string =>
  expandTokens(parseTokens(line, parseField), ({ name, argument }) => readers[name]?.(words, argument) ?? '').trim()
