import * as yup from 'yup'
import { PatternError } from '@/base/tokens'
import { checkCaption } from '../caption'
import type { Kind, Labelled } from './kind'

/** A line of text with fields in braces. */
export interface TextSetting extends Labelled {
  readonly kind: 'text'
  readonly default: string
  readonly maxCharacters: number
}

export const text = (declaration: Omit<TextSetting, 'kind'>): TextSetting => ({ kind: 'text', ...declaration })

/** Why a line's fields can't be read. */
function fieldProblem(value: string): string | undefined {
  try {
    checkCaption(value)
    return undefined
  } catch (error) {
    return error instanceof PatternError ? `can’t be read: ${error.message}` : undefined
  }
}

export const textKind: Kind<TextSetting, string> = {
  schema: ({ maxCharacters }) =>
    yup
      .string()
      .defined('is missing')
      .typeError('must be text')
      .max(maxCharacters, `must have at most ${maxCharacters} characters`)
      .test(
        'fields',
        ({ value }) => fieldProblem(String(value)) ?? '',
        (value) => fieldProblem(value) === undefined,
      ),
  json: ({ maxCharacters }) => ({ type: 'string', maxLength: maxCharacters }),
  reading: (setting) => `a line of text (${setting.default.replaceAll('|', '\\|')})`,
  asked: { expects: () => 'a line of text', read: (typed) => typed },
  examples: (setting) => [setting.default, '', 'Tern Lane', '{name}', '{title|name:upper} · {iso}', 'ÄÖß 日本 {camera}'],
}
