import * as yup from 'yup'
import { AppError, reasonOf } from '@/base/errors'
import type { Shape } from '@/base/schema'
import { macroLimits } from '@/macros/codec'
import { touchUpSchema } from './touch-up'

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
