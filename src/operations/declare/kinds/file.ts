import * as yup from 'yup'
import { keptFilePattern } from '@/pixels/kept-file'
import type { Kind, Labelled } from './kind'

/** A file kept with the macro, by its content: a stamp, a look or a face. */
export interface FileSetting extends Labelled {
  readonly kind: 'file'
  /** What the file must be. */
  readonly holds: 'image' | 'look' | 'font'
  readonly default: string
}

export const file = (declaration: Omit<FileSetting, 'kind' | 'default'>): FileSetting => ({ kind: 'file', default: '', ...declaration })

const files = {
  image: { reading: 'a picture file', words: 'a picture file' },
  look: { reading: 'a `.cube` file', words: 'a .cube file' },
  font: { reading: 'a face (`.otf`, `.ttf`, `.woff`, `.woff2`)', words: 'a face (.otf, .ttf, .woff, .woff2)' },
} as const

export const fileKind: Kind<FileSetting, string> = {
  schema: () => yup.string().defined('is missing').typeError('must be text').matches(keptFilePattern, 'must name a kept file'),
  json: () => ({ type: 'string', pattern: keptFilePattern.source }),
  reading: ({ holds }) => `${files[holds].reading} (none)`,
  asked: { expects: ({ holds }) => files[holds].words, read: (typed) => typed },
  examples: () => [''],
}
