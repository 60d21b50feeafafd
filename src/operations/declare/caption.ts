import { changed, expandTokens, formatTokenDate, isChange, PatternError, parseTokens, splitField, type TokenField } from '@/base/tokens'
import type { PictureFacts } from '@/pixels/picture'

/** What a line of text on a picture can draw on. */
export interface CaptionSubject {
  /** File name with its extension. */
  readonly name: string
  readonly facts: PictureFacts
}

const fields: Readonly<Record<string, (subject: CaptionSubject) => string>> = {
  name: ({ name }) => name.replace(/\.[^.]+$/, ''),
  title: ({ facts }) => facts.title ?? '',
  iso: ({ facts }) => String(facts.iso ?? ''),
  camera: ({ facts }) => facts.camera ?? '',
  lens: ({ facts }) => facts.lens ?? '',
  keyword: ({ facts }) => facts.keywords?.[0] ?? '',
}

function parseField(text: string): TokenField {
  const field = splitField(text)
  if (field.name === 'taken') return field
  if (!Object.hasOwn(fields, field.name))
    throw new PatternError(`{${text}} is not a field. There are: ${[...Object.keys(fields), 'taken'].sort().join(', ')}`)
  if (field.argument && !isChange(field.argument)) throw new PatternError(`{${text}}: after the colon goes lower, upper or plain`)
  return field
}

/** @throws PatternError */
export const checkCaption = (text: string): void => void parseTokens(text, parseField)

/** The line for one picture; fields that the picture does not tell are empty. */
export function expandCaption(text: string, subject: CaptionSubject | undefined): string {
  return expandTokens(parseTokens(text, parseField), ({ name, argument }) => {
    if (!subject) return ''
    return name === 'taken' ? formatTokenDate(subject.facts.taken, argument) : changed(fields[name]?.(subject) ?? '', argument)
  }).trim()
}
