import * as yup from 'yup'
import { orientationOf } from '@/base/geometry'
import { keysOf, type Shape } from '@/base/schema'
import { isLike } from '@/base/wildcards'
import type { PictureFacts } from '@/pixels/picture'

/** Formats that a picture can have, as they are stored. */
/** How a format is called. */
export const formatName = (format: string): string => (format === 'raw' ? 'raw' : format.toUpperCase())

export const pictureFormats = ['jpeg', 'png', 'tiff', 'webp', 'avif', 'raw'] as const
const orientations = ['portrait', 'landscape', 'square'] as const
const tones = ['mono', 'colour'] as const
const longestText = 200

const bound = yup.number().strict(true).typeError('must be a number or null').min(0, 'must be at least 0').nullable().defined('is missing')
const oneOf = <const Word extends string>(words: readonly Word[]) =>
  yup
    .string()
    .strict(true)
    .required('is missing')
    .oneOf(words, `must be one of ${words.join(', ')}`)
const words = yup
  .string()
  .strict(true)
  .typeError('must be text')
  .defined('is missing')
  .max(longestText, `must have at most ${longestText} characters`)

const dayPattern = /^\d{4}-\d{2}-\d{2}$/
const day = yup
  .string()
  .strict(true)
  .typeError('must be a day or null')
  .matches(dayPattern, 'must be a day like 2026-03-14')
  .nullable()
  .defined('is missing')

/** Turns a condition round. Left out where it holds as it stands. */
const not = yup.boolean<true>().strict(true).oneOf([true], 'must be true, or left out').optional()

const condition = <Fields extends yup.ObjectShape>(fields: Fields) =>
  yup
    .object({ ...fields, not })
    .noUnknown('holds something unknown: ${unknown}')
    .strict(true)
    .required('is missing')

const schemas = {
  orientation: condition({ kind: oneOf(['orientation']), is: oneOf(orientations) }),
  iso: condition({ kind: oneOf(['iso']), from: bound, to: bound }),
  megapixels: condition({ kind: oneOf(['megapixels']), from: bound, to: bound }),
  format: condition({ kind: oneOf(['format']), is: oneOf(pictureFormats) }),
  tone: condition({ kind: oneOf(['tone']), is: oneOf(tones) }),
  name: condition({ kind: oneOf(['name']), like: words }),
  keyword: condition({ kind: oneOf(['keyword']), has: words }),
  camera: condition({ kind: oneOf(['camera']), has: words }),
  /** Days as `yyyy-mm-dd`, both included. */
  taken: condition({ kind: oneOf(['taken']), from: day, to: day }),
} as const

export type ConditionKind = keyof typeof schemas

/** Which pictures are meant: by a step, or by an intake. There may be several: all must hold. They judge the source, not what steps made of it. */
export type Condition = Shape<(typeof schemas)[ConditionKind]>

const kinds = keysOf(schemas)
/** Says of a value that it is no condition. */
const ofNoKind = yup
  .mixed<never>()
  .test('kind', (_, { createError, path }) => createError({ path: `${path}.kind`, message: `must be one of ${kinds.join(', ')}` }))
  .required('is missing')

/** Strict schema of any condition; its kind decides which. */
export const conditionSchema = yup.lazy((value: unknown) => {
  const given = typeof value === 'object' && value !== null && 'kind' in value ? value.kind : undefined
  const kind = kinds.find((each) => each === given)
  return kind ? schemas[kind] : ofNoKind
})

/** What a condition is judged by. */
export interface Subject {
  readonly facts: PictureFacts
  /** File name with its extension. */
  readonly name: string
}

/** What a new condition of each kind says, and how its kind is called. */
export const conditionKinds: Readonly<Record<ConditionKind, { readonly label: string; readonly start: Condition }>> = {
  orientation: { label: 'Orientation', start: { kind: 'orientation', is: 'portrait' } },
  iso: { label: 'ISO', start: { kind: 'iso', from: 1600, to: null } },
  megapixels: { label: 'Megapixels', start: { kind: 'megapixels', from: null, to: 12 } },
  format: { label: 'File kind', start: { kind: 'format', is: 'jpeg' } },
  tone: { label: 'Mono or colour', start: { kind: 'tone', is: 'colour' } },
  name: { label: 'Name', start: { kind: 'name', like: '*' } },
  keyword: { label: 'Keyword', start: { kind: 'keyword', has: '' } },
  camera: { label: 'Camera', start: { kind: 'camera', has: '' } },
  taken: { label: 'Taken', start: { kind: 'taken', from: null, to: null } },
}

/** What a new condition of a kind says where a picture is in hand: what holds of it. */
export function conditionLike(kind: ConditionKind, { facts, name }: Subject): Condition {
  const { start } = conditionKinds[kind]
  switch (start.kind) {
    case 'orientation':
      return { ...start, is: orientationOf(facts.size) }
    case 'tone':
      return { ...start, is: isMono(facts) ? 'mono' : 'colour' }
    case 'format':
      return { ...start, is: pictureFormats.find((format) => format === facts.format) ?? start.is }
    case 'name':
      return { ...start, like: patternFor(name) }
    case 'keyword':
      return { ...start, has: facts.keywords?.[0] ?? '' }
    case 'camera':
      return { ...start, has: facts.camera ?? '' }
    case 'taken': {
      const day = facts.taken?.slice(0, 10) ?? null
      return { ...start, from: day, to: day }
    }
    default:
      return start
  }
}

/** The pattern that one name is taken by. What would set patterns apart stands for any character. */
export const patternFor = (name: string): string => name.replace(/[,;]/g, '?')

/** The patterns of a line, and a line of patterns. */
export const splitPatterns = (like: string): string[] =>
  like
    .split(/[,;]/)
    .map((pattern) => pattern.trim())
    .filter(Boolean)
export const joinPatterns = (patterns: readonly string[]): string => splitPatterns(patterns.join(',')).join(', ')

const isMono = ({ space }: PictureFacts): boolean => space === 'b-w' || space === 'grey16'

/** Several patterns stand with commas or semicolons between them. One with such a character in it is taken as it stands, too. */
const patternsOf = (like: string): string[] => [like, ...splitPatterns(like)].filter(Boolean)
const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '')

const inRange = (value: number, from: number | null, to: number | null): boolean =>
  (from === null || value >= from) && (to === null || value <= to)

/** Whether a condition holds. A picture that does not tell its ISO satisfies no ISO condition, unless that is turned round. */
export const holds = (condition: Condition, subject: Subject): boolean => isSo(condition, subject) !== (condition.not ?? false)

function isSo(condition: Condition, { facts, name }: Subject): boolean {
  switch (condition.kind) {
    case 'orientation':
      return orientationOf(facts.size) === condition.is
    case 'iso':
      return facts.iso !== undefined && inRange(facts.iso, condition.from, condition.to)
    case 'megapixels':
      return inRange((facts.size.width * facts.size.height) / 1e6, condition.from, condition.to)
    case 'format':
      return facts.format === condition.is
    case 'tone':
      return isMono(facts) === (condition.is === 'mono')
    case 'name':
      return patternsOf(condition.like).some((pattern) => isLike(name, pattern) || isLike(stemOf(name), pattern))
    case 'keyword':
      return facts.keywords?.some((keyword) => keyword.toLowerCase() === condition.has.trim().toLowerCase()) ?? false
    case 'camera':
      return facts.camera?.toLowerCase().includes(condition.has.trim().toLowerCase()) ?? false
    case 'taken': {
      // ISO 8601 days compare as text.
      const day = facts.taken?.slice(0, 10)
      return day !== undefined && (condition.from === null || day >= condition.from) && (condition.to === null || day <= condition.to)
    }
  }
}

function describeRange(from: number | null, to: number | null, words: (value: number) => string): string {
  if (from !== null && to !== null) return `${words(from)} to ${words(to)}`
  if (from !== null) return `${words(from)} and more`
  return to === null ? 'any' : `up to ${words(to)}`
}

/** In words, behind "only for": `portraits`, `ISO 1600 and more`, `not names like a*`. */
export const describeCondition = (condition: Condition): string => `${condition.not ? 'not ' : ''}${describeKind(condition)}`

function describeKind(condition: Condition): string {
  switch (condition.kind) {
    case 'orientation':
      return { portrait: 'portraits', landscape: 'landscapes', square: 'squares' }[condition.is]
    case 'iso':
      return describeRange(condition.from, condition.to, (value) => `ISO ${value}`)
    case 'megapixels':
      return describeRange(condition.from, condition.to, (value) => `${value} MP`)
    case 'format':
      return `${formatName(condition.is)} files`
    case 'tone':
      return condition.is === 'mono' ? 'mono pictures' : 'colour pictures'
    case 'name':
      return `names like ${condition.like}`
    case 'keyword':
      return `keyword ${condition.has || '…'}`
    case 'camera':
      return `cameras like ${condition.has || '…'}`
    case 'taken':
      return ['taken', condition.from && `from ${condition.from}`, condition.to && `${condition.from ? 'to' : 'up to'} ${condition.to}`]
        .filter(Boolean)
        .join(' ')
  }
}

/** The same as JSON Schema. */
export const conditionJsonSchemas = [
  ...(['iso', 'megapixels'] as const).map((kind) =>
    jsonOf(kind, { from: { type: ['number', 'null'], minimum: 0 }, to: { type: ['number', 'null'], minimum: 0 } }),
  ),
  jsonOf('orientation', { is: { enum: [...orientations] } }),
  jsonOf('format', { is: { enum: [...pictureFormats] } }),
  jsonOf('tone', { is: { enum: [...tones] } }),
  jsonOf('name', { like: { type: 'string', maxLength: longestText } }),
  jsonOf('keyword', { has: { type: 'string', maxLength: longestText } }),
  jsonOf('camera', { has: { type: 'string', maxLength: longestText } }),
  jsonOf('taken', {
    from: { type: ['string', 'null'], pattern: dayPattern.source },
    to: { type: ['string', 'null'], pattern: dayPattern.source },
  }),
]

function jsonOf(kind: ConditionKind, properties: Readonly<Record<string, unknown>>) {
  return {
    type: 'object',
    properties: { kind: { const: kind }, ...properties, not: { const: true } },
    required: ['kind', ...Object.keys(properties)],
    additionalProperties: false,
  }
}
