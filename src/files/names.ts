import type { Size } from '@/base/geometry'
import {
  changed,
  expandTokens,
  formatTokenDate,
  isChange,
  PatternError,
  parseTokens,
  splitField,
  type TokenField,
  type TokenPattern,
} from '@/base/tokens'
import type { PictureFacts } from '@/pixels/picture'
import { fitName, safeSegment } from './safe-names'

export { PatternError }

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
  /** By question. */
  readonly answers: Readonly<Record<string, unknown>>
}

export type NamePattern = TokenPattern

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
  taken: (c, pattern) => formatTokenDate(c.facts.taken, pattern),
  today: (c, pattern) => formatTokenDate(c.today, pattern),
  folder: folderLevels,
  ask: (c, question) => String(c.answers[question] ?? ''),
}
/** Names of all fields, for help and completion. */
export const fieldNames = [...Object.keys(plainFields), ...Object.keys(argumentFields)].sort()

function parseField(text: string): TokenField {
  const { name, argument } = splitField(text)
  if (name in argumentFields) {
    if (name === 'n' && !/^\d{0,9}(\/folder)?$/.test(argument)) throw new PatternError(`{${text}} needs an example number, like {n:001}`)
    if (name === 'ask' && !argument.trim()) throw new PatternError(`{${text}} needs its question, like {ask:Client}`)
    if (name === 'folder' && !/^[1-9]?$/.test(argument)) throw new PatternError(`{${text}} takes a number of levels, like {folder:2}`)
    return { name, argument }
  }
  if (!(name in plainFields)) throw new PatternError(`{${text}} is not a field. There are: ${fieldNames.join(', ')}`)
  if (argument && !isChange(argument)) throw new PatternError(`{${text}}: after the colon goes lower, upper or plain`)
  return { name, argument }
}

/**
 * Reads a name pattern: text with fields in braces, `/` for subfolders.
 * @throws PatternError
 */
export function parsePattern(pattern: string): NamePattern {
  if (!pattern.trim()) throw new PatternError('The name pattern is empty')
  return parseTokens(pattern, parseField)
}

/** The questions that a pattern asks before a run; none for one that can't be read. */
export function askedBy(pattern: string): string[] {
  try {
    const fields = parsePattern(pattern).flatMap((part) => ('alternatives' in part ? part.alternatives : []))
    return fields.filter(({ name }) => name === 'ask').map(({ argument }) => argument)
  } catch (error) {
    if (error instanceof PatternError) return []
    throw error
  }
}

function readField(field: TokenField, context: NameContext): string {
  const reader = argumentFields[field.name]
  return reader ? reader(context, field.argument) : changed(plainFields[field.name]?.(context, '') ?? '', field.argument)
}

/** A value may not open a subfolder by itself: only the pattern's own `/` does. */
const withoutSlashes = (value: string): string => value.replace(/[/\\]/g, '-')

/** Whether a name has to be changed so that every system takes it. Composing accents (NFC) is not counted: nobody sees it. */
export function isMadeSafe(pattern: NamePattern, context: NameContext, suffix: string, besideBytes = 0): boolean {
  const wished = expandTokens(pattern, (field) => readField(field, context)).normalize('NFC')
  return `${wished}${suffix}` !== expandPattern(pattern, context, suffix, besideBytes)
}

/** What patterns come to for a picture, by pattern: shown to whoever puts names together. */
export const valuesOf = (patterns: readonly string[], context: NameContext): Readonly<Record<string, string>> =>
  Object.fromEntries(patterns.map((pattern) => [pattern, expandTokens(parsePattern(pattern), (field) => readField(field, context))]))

/** What a pattern counts: pictures through the loop, and through each folder. */
export function countsIn(pattern: NamePattern): { readonly loop: boolean; readonly folder: boolean } {
  const counters = pattern.flatMap((part) => ('alternatives' in part ? part.alternatives : [])).filter(({ name }) => name === 'n')
  const isOfFolder = ({ argument }: TokenField): boolean => argument.endsWith('/folder')
  return { loop: counters.some((field) => !isOfFolder(field)), folder: counters.some(isOfFolder) }
}

/** A line of text in the fields of names, for people and not for a file. @throws PatternError */
export const expandLine = (line: string, context: NameContext): string =>
  line.trim() === '' ? '' : expandTokens(parsePattern(line), (field) => readField(field, context)).trim()

/**
 * The delivered name for one picture, relative to the delivery's folder, safe on every system.
 * @param suffix what stands behind the stem, extension included: `.jpg`, ` (2).jpg`.
 * @param besideBytes room that the longest name of a file beside it needs behind its own
 */
export function expandPattern(pattern: NamePattern, context: NameContext, suffix: string, besideBytes = 0): string {
  const text = expandTokens(pattern, (field) => withoutSlashes(readField(field, context)))
  const segments = text.split('/').map(safeSegment)
  const stem = segments.pop() ?? '_'
  return [...segments.map((segment) => fitName(segment, '')), fitName(stem, suffix, besideBytes)].join('/')
}
