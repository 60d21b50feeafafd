import dayjs from 'dayjs'

/*
 * Text with fields in braces: `{name}`, `{taken:yyyy-MM-dd}`, `{title|name}` (the first that is not empty). Names of delivered files
 * and lines of text on pictures are written this way; which fields there are is up to them.
 */

export interface TokenField {
  readonly name: string
  readonly argument: string
}
type Part = { readonly text: string } | { readonly alternatives: readonly TokenField[] }
export type TokenPattern = readonly Part[]

/** Why a pattern can't be used, and where. */
export class PatternError extends Error {
  override readonly name = 'PatternError'
}

const longestPattern = 200

/** Unicode date patterns (UTS #35) that a file name needs, and their spelling in dayjs. */
const dateTokens: Record<string, string> = {
  yyyy: 'YYYY',
  yy: 'YY',
  MMMM: 'MMMM',
  MMM: 'MMM',
  MM: 'MM',
  M: 'M',
  dd: 'DD',
  d: 'D',
  HH: 'HH',
  mm: 'mm',
  ss: 'ss',
  EEEE: 'dddd',
  EEE: 'ddd',
}
const dateTokenPattern = /yyyy|yy|MMMM|MMM|MM|M|dd|d|HH|mm|ss|EEEE|EEE/g

export function formatTokenDate(time: string | undefined, pattern: string): string {
  if (!time) return ''
  return dayjs(time).format(pattern.replace(dateTokenPattern, (token) => dateTokens[token] ?? token) || 'YYYY-MM-DD')
}

/** a–z, digits, `-` and `_`: accents are taken off, everything else becomes `-`. */
export const plainText = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9_-]+/g, '-')
    .replace(/^-+|-+$/g, '')

const changes: Readonly<Record<string, (text: string) => string>> = {
  lower: (text) => text.toLowerCase(),
  upper: (text) => text.toUpperCase(),
  plain: plainText,
}
export const isChange = (argument: string): boolean => Object.hasOwn(changes, argument)

/** A value with what stands behind the colon done to it. */
export const changed = (text: string, argument: string): string => changes[argument]?.(text) ?? text

export function splitField(text: string): TokenField {
  const colon = text.indexOf(':')
  return colon < 0 ? { name: text, argument: '' } : { name: text.slice(0, colon), argument: text.slice(colon + 1) }
}

/** @throws PatternError */
export function parseTokens(pattern: string, parseField: (text: string) => TokenField): TokenPattern {
  if (pattern.length > longestPattern) throw new PatternError(`A pattern has at most ${longestPattern} characters`)
  const parts: Part[] = []
  let rest = pattern
  while (rest) {
    const open = rest.search(/[{}]/)
    if (open < 0) return [...parts, { text: rest }]
    if (rest[open] === '}') throw new PatternError('A } stands without its {')
    const close = rest.indexOf('}', open)
    if (close < 0) throw new PatternError('A { is not closed')
    if (open > 0) parts.push({ text: rest.slice(0, open) })
    const alternatives = rest
      .slice(open + 1, close)
      .split('|')
      .map(parseField)
    parts.push({ alternatives })
    rest = rest.slice(close + 1)
  }
  return parts
}

export const expandTokens = (pattern: TokenPattern, read: (field: TokenField) => string): string =>
  pattern.map((part) => ('text' in part ? part.text : (part.alternatives.map(read).find(Boolean) ?? ''))).join('')
