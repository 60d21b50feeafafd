import dayjs from 'dayjs'
import type { Size } from '@/core/geometry'
import type { PictureFacts } from '@/core/picture'
import { fitName, plainText, safeSegment } from './safe-names'

/** What a name pattern can draw on for one picture. */
export interface NameContext {
  /** Source name without extension. */
  readonly name: string
  /** The source's folders below the intake folder and the intake folder's own name, outermost first. */
  readonly folders: readonly string[]
  /** Counts from 0 through the run, and through the picture's folder. */
  readonly index: number
  readonly indexInFolder: number
  readonly facts: PictureFacts
  readonly deliveredSize: Size
  readonly macro: string
  readonly loop: string
  readonly delivery: string
  readonly run: string
  /** ISO 8601 local time of the run's start. */
  readonly today: string
}

interface Field {
  readonly name: string
  readonly argument: string
}
type Part = { readonly text: string } | { readonly alternatives: readonly Field[] }
export type NamePattern = readonly Part[]

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

function formatDate(time: string | undefined, pattern: string): string {
  if (!time) return ''
  return dayjs(time).format(pattern.replace(dateTokenPattern, (token) => dateTokens[token] ?? token) || 'YYYY-MM-DD')
}

/** `001` counts 001, 002 …; `001/folder` starts anew in each folder. */
function counter(context: NameContext, argument: string): string {
  const [example = '1', scope] = argument.split('/')
  const index = scope === 'folder' ? context.indexInFolder : context.index
  return String(Number(example || '1') + index).padStart(example.length, '0')
}

function folderLevels(context: NameContext, argument: string): string {
  const levels = Number(argument || '1')
  return context.folders.slice(-levels).join('-')
}

type FieldReader = (context: NameContext, argument: string) => string
const plainFields: Record<string, FieldReader> = {
  name: (c) => c.name,
  title: (c) => c.facts.title ?? '',
  iso: (c) => String(c.facts.iso ?? ''),
  camera: (c) => c.facts.camera ?? '',
  lens: (c) => c.facts.lens ?? '',
  keyword: (c) => c.facts.keywords?.[0] ?? '',
  width: (c) => String(c.deliveredSize.width),
  height: (c) => String(c.deliveredSize.height),
  macro: (c) => c.macro,
  delivery: (c) => c.delivery,
  loop: (c) => c.loop,
  run: (c) => c.run,
}
const argumentFields: Record<string, FieldReader> = {
  n: counter,
  taken: (c, pattern) => formatDate(c.facts.taken, pattern),
  today: (c, pattern) => formatDate(c.today, pattern),
  folder: folderLevels,
}
const changes: Record<string, (text: string) => string> = {
  lower: (text) => text.toLowerCase(),
  upper: (text) => text.toUpperCase(),
  plain: plainText,
}

/** Names of all fields, for help and completion. */
export const fieldNames = [...Object.keys(plainFields), ...Object.keys(argumentFields)].sort()

function parseField(text: string): Field {
  const colon = text.indexOf(':')
  const name = colon < 0 ? text : text.slice(0, colon)
  const argument = colon < 0 ? '' : text.slice(colon + 1)
  if (name in argumentFields) {
    if (name === 'n' && !/^\d{0,9}(\/folder)?$/.test(argument)) throw new PatternError(`{${text}} needs an example number, like {n:001}`)
    if (name === 'folder' && !/^[1-9]?$/.test(argument)) throw new PatternError(`{${text}} takes a number of levels, like {folder:2}`)
    return { name, argument }
  }
  if (!(name in plainFields)) throw new PatternError(`{${text}} is not a field. There are: ${fieldNames.join(', ')}`)
  if (argument && !(argument in changes)) throw new PatternError(`{${text}}: after the colon goes lower, upper or plain`)
  return { name, argument }
}

/**
 * Reads a name pattern: text with fields in braces, `/` for subfolders.
 * @throws PatternError
 */
export function parsePattern(pattern: string): NamePattern {
  if (pattern.length > longestPattern) throw new PatternError(`A name pattern has at most ${longestPattern} characters`)
  if (!pattern.trim()) throw new PatternError('The name pattern is empty')
  const parts: Part[] = []
  let rest = pattern
  while (rest) {
    const open = rest.search(/[{}]/)
    if (open < 0) return [...parts, { text: rest }]
    if (rest[open] === '}') throw new PatternError('A } stands without its {')
    const close = rest.indexOf('}', open)
    if (close < 0) throw new PatternError('A { is not closed')
    if (open > 0) parts.push({ text: rest.slice(0, open) })
    parts.push({
      alternatives: rest
        .slice(open + 1, close)
        .split('|')
        .map(parseField),
    })
    rest = rest.slice(close + 1)
  }
  return parts
}

function readField(field: Field, context: NameContext): string {
  const reader = argumentFields[field.name]
  if (reader) return reader(context, field.argument)
  const text = plainFields[field.name]?.(context, '') ?? ''
  return changes[field.argument]?.(text) ?? text
}

/** A value may not open a subfolder by itself: only the pattern's own `/` does. */
const withoutSlashes = (value: string): string => value.replace(/[/\\]/g, '-')

/**
 * The delivered name for one picture, relative to the delivery's folder, safe on every system.
 * @param suffix what stands behind the stem, extension included: `.jpg`, ` (2).jpg`.
 */
export function expandPattern(pattern: NamePattern, context: NameContext, suffix: string): string {
  const text = pattern
    .map((part) =>
      'text' in part ? part.text : withoutSlashes(part.alternatives.map((field) => readField(field, context)).find(Boolean) ?? ''),
    )
    .join('')
  const segments = text.split('/').map(safeSegment)
  const stem = segments.pop() ?? '_'
  return [...segments.map((segment) => fitName(segment, '')), fitName(stem, suffix)].join('/')
}
