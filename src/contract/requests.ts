import * as yup from 'yup'
import { oneOf, type Shape } from '@/base/schema'
import { deliverySchema } from '@/jobs/delivery'
import { gatherSchema } from '@/jobs/gather'
import { maxPicked } from '@/jobs/loop'
import { maxCacheMb, maxWorkers } from '@/jobs/machine'
import { touchUpSchema } from '@/jobs/touch-up'
import type { Step } from '@/macros/step'
import type { CurvePoints } from '@/operations'
import { markKinds } from '@/pixels/traits'

/*
 * Shapes of everything that a request may bring. Steps and changes of the bench are lists of anything here: the macro
 * format checks them, since what a step may hold depends on its operation.
 */

const path = yup.string().strict(true).max(4096)

export const benchEditSchema = yup
  .object({
    from: yup.number().integer().min(0).required(),
    expectedCursor: yup.number().integer().min(0).required(),
    added: yup.array(yup.mixed().required()).max(1000).required(),
    cursor: yup.number().integer().min(0).required(),
  })
  .noUnknown()

/** An edit of the bench: where its new changes begin, and how many are in force afterwards. */
export type BenchEdit = Shape<typeof benchEditSchema>

export const laidSchema = yup
  .object({
    samplePath: path.nullable().optional(),
    samples: yup.array(path.required()).max(8).optional(),
    macroId: yup.string().max(64).nullable().optional(),
    /** A picture of a loop: what it was laid with is kept as it was, and checked when something is kept of it. */
    picture: yup
      .object({
        loopId: yup.string().required().max(64),
        loop: yup.string().defined().max(200),
        sourcePath: path.required(),
        macros: yup
          .array(
            yup.object({
              macroId: yup.string().required().max(64),
              name: yup.string().defined().max(200),
              revision: yup.number().integer().required(),
              steps: yup.array(yup.mixed<Step>().required()).required(),
            }),
          )
          .required(),
        touchUp: touchUpSchema.required(),
        version: yup.number().integer().min(0).required(),
        picked: yup.array(path.required()).max(5000).required(),
        back: yup
          .string()
          .strict(true)
          .matches(/^\/(loops|runs)\//)
          .max(5000)
          .required(),
      })
      .noUnknown()
      .default(undefined)
      .nullable()
      .optional(),
  })
  .noUnknown()

export const keepSchema = yup
  .object({
    name: yup.string().required().max(120),
    notes: yup.string().defined(),
    tags: yup.array(yup.string().required()).required(),
    steps: yup.array(yup.mixed().required()).required(),
  })
  .noUnknown()
export const aboutSchema = yup
  .object({
    name: yup.string().required().max(120),
    notes: yup.string().defined(),
    tags: yup.array(yup.string().required()).required(),
  })
  .noUnknown()
export const rootsSchema = yup.object({ roots: yup.array(path.defined()).max(50).required() }).noUnknown()
export const machineSchema = yup
  .object({
    workers: yup.number().integer().min(1).max(maxWorkers).optional(),
    cacheMb: yup.number().integer().min(10).max(maxCacheMb).optional(),
  })
  .noUnknown()
export const passphraseSchema = yup.object({ passphrase: yup.string().defined().max(500) }).noUnknown()
export const backupSchema = yup.object({ name: yup.string().required().max(200) }).noUnknown()
export const restoreSchema = yup.object({ id: yup.string().required().max(64) }).noUnknown()
export const reviseSchema = yup.object({ steps: yup.array(yup.mixed().required()).required() }).noUnknown()
export const importSchema = yup.object({ text: yup.string().required() }).noUnknown()

const isNumber = (value: unknown): value is number => typeof value === 'number'
const isPoint = (value: unknown): boolean => Array.isArray(value) && value.length === 2 && value.every(isNumber)
const isAnswer = (value: unknown): value is string | number | boolean | CurvePoints =>
  Array.isArray(value) ? value.every(isPoint) : ['string', 'number', 'boolean'].includes(typeof value)

/** An answer's kind depends on its question: the macro checks it. */
const answer = yup.mixed<string | number | boolean | CurvePoints>(isAnswer).required()

export const runWishesSchema = yup
  .object({
    answers: yup.lazy((value: unknown) =>
      yup.object(Object.fromEntries(Object.keys(value ?? {}).map((question) => [question, answer] as const))).optional(),
    ),
    only: yup.string<'all' | 'changed' | 'touched'>().oneOf(['all', 'changed', 'touched']).optional(),
    failedOf: yup.string().max(64).optional(),
    /** The check that the person saw. */
    check: yup.string().uuid().optional(),
    startAt: yup.number().integer().min(0).optional(),
    /** Over these pictures, this once, whatever the loop takes. */
    files: yup.array(path.required()).min(1).max(maxPicked).optional(),
  })
  .noUnknown()

/** A picture to be delivered by itself; its steps are checked by the macro format. */
export const onePictureSchema = yup
  .object({
    sourcePath: path.required(),
    steps: yup.array(yup.mixed<Step>().required()).max(500).required(),
    delivery: deliverySchema.required(),
  })
  .noUnknown()

/** What is about to be dropped onto a loop. */
export const openDropSchema = yup.object({ bytes: yup.number().integer().min(0).required() }).noUnknown()
export const inboxSchema = yup
  .object({ keptDays: yup.number().integer().min(1).max(10_000).nullable().optional(), clear: yup.boolean().optional() })
  .noUnknown()

/** Delivered pictures to be gathered on pages. */
export const pagesSchema = yup
  .object({
    resultIds: yup.array(yup.number().integer().min(1).required()).min(1).max(maxPicked).required(),
    gather: gatherSchema.required(),
    folder: path.required(),
  })
  .noUnknown()

/** A picture's touch-up; what it says is checked by the jobs' own schema, against the loop's macros. */
export const touchUpEditSchema = yup
  .object({ sourcePath: path.required(), touchUp: yup.mixed().required(), version: yup.number().integer().min(0).required() })
  .noUnknown()
export const touchUpStepSchema = yup
  .object({
    sourcePath: path.required(),
    version: yup.number().integer().min(0).required(),
    by: yup.number<1 | -1>().oneOf([1, -1]).required(),
  })
  .noUnknown()

/** Pictures of a proof to be measured. */
export const proofPathsSchema = yup.object({ paths: yup.array(path.required()).min(1).max(16).required() }).noUnknown()

export const marksSchema = yup.object({ silent: yup.array(oneOf(markKinds)).required() }).noUnknown()

/* What stands behind the `?` of an address. */

const edge = yup.number().integer().min(16).max(4096)
export const fileNameQuery = yup.object({ name: yup.string().required() })
export const folderQuery = yup.object({ path: yup.string().optional() })
export const spreadQuery = yup.object({ folder: yup.string().required() })
export const pictureQuery = yup.object({ path: yup.string().required(), edge: edge.optional() })
/** `seen`: changes with what the small picture shows, so that an old one is not taken for it. */
export const proofPictureQuery = yup.object({ path: yup.string().required(), seen: yup.string().max(64).required() })
export const resultQuery = yup.object({ edge: edge.optional() })
export const runsQuery = yup.object({ before: yup.number().integer().min(1).max(Number.MAX_SAFE_INTEGER).optional() })
export const reportQuery = yup.object({ as: yup.string<'csv' | 'json'>().oneOf(['csv', 'json']).optional() })
