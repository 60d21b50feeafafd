import * as yup from 'yup'
import { counted } from '@/base/format'
import { folderOf } from '@/base/paths'
import { oneOf, type Shape } from '@/base/schema'
import { conditionSchema } from '@/macros/condition'
import { deliverySchema } from './delivery'

/** What becomes of a picture that can be read only in part. fail: it is told and left out. deliver: what can be read of it goes out, and is marked. */
export const whensDamaged = ['fail', 'deliver'] as const
export type WhenDamaged = (typeof whensDamaged)[number]

/** By name, in natural order through all folders; by the time it was taken; folder by folder. */
export const intakeOrders = ['folder', 'name', 'taken'] as const
export type IntakeOrder = (typeof intakeOrders)[number]

const path = yup.string().strict(true).max(4096)

/** A loop that keeps more by their paths is better off with a folder. */
export const maxPicked = 10_000

export const intakeSchema = yup
  .object({
    /** Absolute path under a root. */
    folder: path.defined().default(''),
    /** Which folder it is, is asked before each run; it stands at the one that was picked last. */
    asked: yup.boolean().required().default(false),
    /** Further folders, after the first. */
    more: yup.array(path.defined()).max(50).required().default([]),
    subfolders: yup.boolean().required().default(true),
    /** Names of subfolders that are passed over, with `*` and `?`. */
    without: yup.array(yup.string().required().max(200)).max(100).required().default([]),
    /** Only pictures for which all of these hold. */
    only: yup.array(conditionSchema).max(20).required().default([]),
    /** Just these pictures, by their absolute paths, in place of all that lie in the folders. */
    picked: yup.array(path.required()).max(maxPicked).nullable().defined().default(null),
    order: oneOf(intakeOrders).default('folder'),
    damaged: oneOf(whensDamaged).default('fail'),
  })
  .noUnknown()

export type LoopIntake = Shape<typeof intakeSchema>

export const intakeOf = (folder: string, part: Partial<LoopIntake> = {}): LoopIntake => ({ ...intakeSchema.getDefault(), folder, ...part })

/** An intake as it was stored, perhaps before some of its settings existed. */
export const completeIntake = (stored: LoopIntake): LoopIntake => intakeOf(stored.folder, stored)

/** The folders that an intake takes from: those that are named, or those of the pictures that were picked. */
export const foldersOf = ({ folder, more, picked }: LoopIntake): string[] =>
  picked ? [...new Set(picked.map(folderOf))] : [folder, ...more].filter(Boolean)

/** What an intake takes, in a line; nothing while that is open. */
export const describeIntake = (intake: LoopIntake): string =>
  intake.picked
    ? `${counted(intake.picked.length, 'picture')}${intake.picked.length > 0 ? ` of ${foldersOf(intake).join(', ')}` : ''}`
    : foldersOf(intake).join(', ')

/** A macro on a loop's line: pinned to a revision, or following the newest (null). */
const macroUseSchema = yup
  .object({ macroId: yup.string().required().max(64), revision: yup.number().integer().min(1).nullable().defined() })
  .noUnknown()
export type MacroUse = Shape<typeof macroUseSchema>

const startSchemas = {
  byHand: yup
    .object({ when: oneOf(['byHand']) })
    .noUnknown()
    .required(),
  /** At a time of day, `HH:mm` by the machine's clock, on days of the week (0 Sunday … 6 Saturday). */
  atTimes: yup
    .object({
      when: oneOf(['atTimes']),
      at: yup
        .string()
        .matches(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time is written as HH:mm')
        .required(),
      days: yup.array(yup.number().integer().min(0).max(6).required()).max(7).required(),
    })
    .noUnknown()
    .required(),
  /** Once new pictures lie in the intake and nothing has changed there for a while. */
  arrivals: yup
    .object({ when: oneOf(['arrivals']) })
    .noUnknown()
    .required(),
} as const

/** When a loop starts by itself. It then takes only pictures that it has not delivered yet. */
export type LoopStart = Shape<(typeof startSchemas)[keyof typeof startSchemas]>

const startSchema = yup.lazy((value: unknown) => {
  const when = typeof value === 'object' && value !== null && 'when' in value ? value.when : undefined
  return when === 'atTimes' ? startSchemas.atTimes : when === 'arrivals' ? startSchemas.arrivals : startSchemas.byHand
})

export const everyDay: readonly number[] = [0, 1, 2, 3, 4, 5, 6]

export const loopSchema = yup
  .object({
    id: yup.string().required().max(64),
    name: yup.string().trim().required().max(120).default('New loop'),
    intake: intakeSchema.required(),
    macros: yup.array(macroUseSchema).max(20).required().default([]),
    deliveries: yup.array(deliverySchema).max(20).required().default([]),
    start: startSchema,
    /** Which set of numbers its counters draw from. */
    numberSet: yup.number().integer().min(0).required().default(0),
    /** Rises with every change that is stored; 0 in a loop that never was. */
    version: yup.number().integer().min(0).required().default(0),
  })
  .noUnknown()

/** A standing job: take pictures from folders, put them through macros, deliver them to other folders. */
export type Loop = Shape<typeof loopSchema>

/** A loop as far as a check looks at it: what it is called matters only where names of files say it. */
export const partThatMatters = (loop: Loop): Loop => {
  const saysName = JSON.stringify(loop.deliveries).includes('{loop')
  return { ...loop, name: saysName ? loop.name || '–' : '–', start: { when: 'byHand' }, version: 0 }
}

/** A loop as it begins: nothing is taken, nothing made, nothing delivered. */
export const newLoop = (id: string, part: Partial<Loop> = {}): Loop => ({
  ...loopSchema.getDefault(),
  id,
  start: { when: 'byHand' },
  ...part,
})
