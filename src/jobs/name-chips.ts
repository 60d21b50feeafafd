/** A field that text can be put together from: what is put in, and what it stands for. The chip says its name alone. */
export interface Chip {
  readonly name: string
  readonly field: string
  readonly meaning: string
}

const chip = (name: string, field: string, meaning: string): Chip => ({ name, field, meaning })

/** What names of files can be put together from. */
export const nameChips: readonly Chip[] = [
  chip('name', '{name}', 'The picture’s own name, without its ending'),
  chip('n', '{n:001}', 'A number that counts on from picture to picture'),
  chip('folder', '{folder}', 'The folder it lies in; {folder:2} the one above, too'),
  chip('taken', '{taken:yyyy-MM-dd}', 'The day it was taken; HH-mm for the time'),
  chip('today', '{today:yyyy-MM-dd}', 'The day of the run'),
  chip('title', '{title|name}', 'Its title, or its name where it has none'),
  chip('camera', '{camera}', 'The camera'),
  chip('lens', '{lens}', 'The lens'),
  chip('iso', '{iso}', 'The ISO it was taken at'),
  chip('keyword', '{keyword}', 'Its first keyword'),
  chip('width', '{width}', 'Pixels across, as delivered'),
  chip('height', '{height}', 'Pixels down, as delivered'),
  chip('macro', '{macro}', 'The macro’s name'),
  chip('loop', '{loop}', 'The loop’s name'),
  chip('delivery', '{delivery}', 'The delivery’s name'),
  chip('run', '{run}', 'The run’s number'),
  chip('ask', '{ask:Client}', 'Asked once before a run; the word behind the colon is the question'),
  chip('/', '/', 'What stands before it becomes a subfolder'),
]

const inCaptions: ReadonlySet<string> = new Set(['name', 'title', 'taken', 'iso', 'camera', 'lens', 'keyword'])

/** What lines on pictures, and texts written into files, can be put together from. */
export const captionChips: readonly Chip[] = nameChips.filter(({ name }) => inCaptions.has(name))

/** A counter in a pattern: the number of the first picture, how many digits it has at least, and whether each folder counts anew. */
export interface Counter {
  readonly start: number
  readonly digits: number
  readonly inFolder: boolean
}

const counterPattern = /\{n(?::(\d*)(\/folder)?)?\}/

/** The first counter of a pattern. */
export function counterOf(pattern: string): Counter | undefined {
  const found = counterPattern.exec(pattern)
  if (!found) return undefined
  const example = found[1] || '1'
  return { start: Number(example), digits: example.length, inFolder: found[2] !== undefined }
}

/** The pattern with its first counter changed. */
export const withCounter = (pattern: string, { start, digits, inFolder }: Counter): string =>
  pattern.replace(counterPattern, () => `{n:${String(start).padStart(digits, '0')}${inFolder ? '/folder' : ''}}`)

/** Where a field is being typed: behind a brace that nothing closes before the caret. */
export function openBrace(text: string, caret: number): number | undefined {
  const from = text.lastIndexOf('{', Math.max(0, caret - 1))
  return from < 0 || from >= caret || text.slice(from, caret).includes('}') ? undefined : from
}
