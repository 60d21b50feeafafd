import * as yup from 'yup'
import { AppError } from '@/base/errors'
import { deliverySchema } from './delivery'
import { intakeSchema, type Loop, newLoop } from './loop'

/*
 * A loop as a file: all but its folders, which are another machine's or another job's, and with its macros as entries of the same bundle.
 * What it would start by itself is by hand where it is taken in.
 */

export const loopFormat = 'copper-loop/loop'
export const loopFileVersion = 1

/** Entries of a bundle: the loop, and its macros. */
export const loopEntry = /^[^/\\]+\.loop\.json$/
export const macroOfLoopEntry = /^macros\/\d{1,2}\.macro\.json$/
export const macroEntryOf = (index: number): string => `macros/${index + 1}.macro.json`

const withoutFolders = ({ intake, deliveries }: Pick<Loop, 'intake' | 'deliveries'>): Pick<Loop, 'intake' | 'deliveries'> => ({
  intake: { ...intake, folder: '', more: [], picked: null },
  deliveries: deliveries.map((delivery) => ({ ...delivery, folder: '' })),
})

/** The loop as the text of a `*.loop.json`. Its macros are told by their entries, in its order; `follows`: each is taken as it is there then. */
export const writeLoopFile = (loop: Loop): string =>
  `${JSON.stringify(
    {
      format: loopFormat,
      version: loopFileVersion,
      name: loop.name,
      ...withoutFolders(loop),
      macros: loop.macros.map((_, index) => macroEntryOf(index)),
    },
    null,
    2,
  )}\n`

const fileSchema = yup
  .object({
    format: yup.string().oneOf([loopFormat]).required(),
    version: yup.number().oneOf([loopFileVersion]).required(),
    name: yup.string().strict(true).trim().required().max(120),
    intake: intakeSchema.required(),
    deliveries: yup.array(deliverySchema).max(20).required(),
    macros: yup.array(yup.string().matches(macroOfLoopEntry, 'must name entries like macros/1.macro.json').required()).max(20).required(),
  })
  .noUnknown()

export interface LoopFile {
  /** With another id and without macros: those come in of their own. */
  readonly loop: Loop
  /** Entries of its macros, in its order. */
  readonly macros: readonly string[]
}

/** @throws AppError `bundleInvalid`, naming the place */
export function readLoopFile(text: string, fileName: string, id: string): LoopFile {
  const refuse = (reason: string): AppError => new AppError('bundleInvalid', { name: fileName, reason })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw refuse('its loop is not JSON')
  }
  try {
    const { name, macros, ...file } = fileSchema.validateSync(json)
    const { intake, deliveries } = withoutFolders(file)
    return { loop: newLoop(id, { name, intake, deliveries }), macros }
  } catch (error) {
    if (error instanceof yup.ValidationError) throw refuse(`its loop ${error.message}`)
    throw error
  }
}
