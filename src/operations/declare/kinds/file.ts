import * as yup from 'yup'
import { keptFilePattern } from '@/pixels/kept-file'
import type { Kind, Labelled } from './kind'

/** A file kept with the macro, by its content: a stamp or a look. */
export interface FileSetting extends Labelled {
  readonly kind: 'file'
  /** What the file must be. */
  readonly holds: 'image' | 'look'
  readonly default: string
}

export const file = (declaration: Omit<FileSetting, 'kind' | 'default'>): FileSetting => ({ kind: 'file', default: '', ...declaration })

export const fileKind: Kind<FileSetting, string> = {
  schema: () => yup.string().defined('is missing').typeError('must be text').matches(keptFilePattern, 'must name a kept file'),
  json: () => ({ type: 'string', pattern: keptFilePattern.source }),
  reading: ({ holds }) => (holds === 'look' ? 'a `.cube` file (none)' : 'a picture file (none)'),
  asked: { expects: ({ holds }) => (holds === 'look' ? 'a .cube file' : 'a picture file'), read: (typed) => typed },
  examples: () => [''],
}
