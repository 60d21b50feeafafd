import * as yup from 'yup'
import { AppError, reasonOf } from '@/base/errors'
import type { Shape } from '@/base/schema'
import { macroLimits } from '@/macros/codec'
import { stepsJsonSchema } from '@/macros/json-schema'
import type { JsonSchema } from '@/operations'
import { touchUpLimits, touchUpSchema } from './touch-up'

/*
 * A loop's touch-ups as one open file, to go with a set of pictures: by each picture's name below the intake, and by its content.
 */

export const touchUpFormat = 'copper-loop/touch-ups'
export const touchUpFileVersion = 1
const maxPictures = 100_000
export const maxTouchUpFileBytes = 32 << 20

const name = yup.string().strict(true).defined().max(4096)

export const touchUpFileSchema = yup
  .object({
    format: yup.string().strict(true).oneOf([touchUpFormat]).required(),
    version: yup.number().strict(true).oneOf([touchUpFileVersion]).required(),
    loop: name,
    /** The loop's macros, whose steps the touch-ups name. */
    macros: yup
      .array(yup.object({ macroId: yup.string().strict(true).required().max(64), name: name.max(macroLimits.nameLength) }).noUnknown())
      .max(1000)
      .required(),
    pictures: yup
      .array(
        yup
          .object({
            /** Below the intake folder, with `/`. */
            picture: name.required(),
            sizeBytes: yup.number().strict(true).integer().min(0).required(),
            sha256: yup
              .string()
              .strict(true)
              .matches(/^[0-9a-f]{64}$/)
              .required(),
            touchUp: touchUpSchema.required(),
          })
          .noUnknown(),
      )
      .max(maxPictures)
      .required(),
  })
  .noUnknown()

export type TouchUpFile = Shape<typeof touchUpFileSchema>

export const writeTouchUpFile = (file: Omit<TouchUpFile, 'format' | 'version'>): string =>
  `${JSON.stringify({ format: touchUpFormat, version: touchUpFileVersion, ...file }, null, 2)}\n`

/** @throws AppError `touchUpFileInvalid` */
export function readTouchUpFile(text: string): TouchUpFile {
  try {
    return touchUpFileSchema.validateSync(JSON.parse(text), { strict: true })
  } catch (error) {
    throw new AppError('touchUpFileInvalid', { reason: reasonOf(error) })
  }
}

const text = (maxLength: number): JsonSchema => ({ type: 'string', maxLength })
const closed = (properties: Readonly<Record<string, JsonSchema>>): JsonSchema => ({
  type: 'object',
  properties,
  required: Object.keys(properties),
  additionalProperties: false,
})
const listOf = (items: JsonSchema, maxItems: number): JsonSchema => ({ type: 'array', maxItems, items })

/** The schema of `*.touch-ups.json`. */
export function touchUpJsonSchema(): JsonSchema {
  const address = { macroId: text(64), stepId: text(64) }
  const steps = { $ref: '#/$defs/steps' }
  const touchUp = closed({
    settings: listOf(closed({ ...address, settings: { type: 'object' } }), touchUpLimits.addresses),
    before: steps,
    after: steps,
    without: listOf(closed(address), touchUpLimits.addresses),
    setAside: { type: 'boolean' },
    lookedAt: { type: 'boolean' },
  })
  const picture = closed({
    picture: { ...text(4096), minLength: 1, description: 'Below the intake folder, with /.' },
    sizeBytes: { type: 'integer', minimum: 0 },
    sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' },
    touchUp,
  })
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Copper Loop touch-ups',
    ...closed({
      format: { const: touchUpFormat },
      version: { const: touchUpFileVersion },
      loop: text(4096),
      macros: listOf(closed({ macroId: text(64), name: text(macroLimits.nameLength) }), 1000),
      pictures: listOf(picture, maxPictures),
    }),
    $defs: { steps: stepsJsonSchema() },
  }
}
