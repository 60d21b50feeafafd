import * as yup from 'yup'
import { AppError } from '@/base/errors'
import { colourSpaces } from '@/colour/spaces'
import { windowHeader } from '@/contract/window'
import { formats } from '@/jobs/encoding'
import { intakeOrders, type Loop, whensDamaged, whensThere } from '@/jobs/loop'
import { metadataPolicies } from '@/jobs/metadata-policy'
import { conditionSchema } from '@/macros/condition'
import type { BenchEdit } from '@/services/bench'
import { mostCacheMb } from '@/services/cache'
import { mostWorkers } from '@/services/settings'
import { piecesOf } from './uploads'

/** Shapes of everything that a request may bring. */

const maxBodyBytes = 2 << 20
const path = yup.string().strict(true).max(4096)

const field = yup.string().strict(true).defined().max(200)

const metadataSchema = yup
  .object({
    policy: yup.string().oneOf(metadataPolicies).required(),
    fields: yup.object({ title: field, description: field, creator: field, rights: field, keywords: field }).noUnknown().required(),
  })
  .noUnknown()

const deliverySchema = yup
  .object({
    id: yup.string().required().max(64),
    name: yup.string().required().max(80),
    folder: path.defined(),
    namePattern: yup.string().defined().max(200),
    mirrorFolders: yup.boolean().required(),
    format: yup.string().oneOf(Object.keys(formats)).required(),
    qualityPercent: yup.number().integer().min(1).max(100).required(),
    chroma: yup.string().oneOf(['4:4:4', '4:2:0']).required(),
    progressive: yup.boolean().required(),
    mostKb: yup.number().integer().min(1).max(1_000_000).nullable().defined(),
    bits: yup.number().oneOf([8, 16]).required(),
    compression: yup.string().oneOf(['none', 'lzw', 'deflate']).required(),
    space: yup
      .string()
      .oneOf([...Object.keys(colourSpaces), 'grey'])
      .required(),
    gamut: yup.string().oneOf(['hue', 'clip']).required(),
    dither: yup.boolean().required(),
    dpi: yup.number().min(1).max(10_000).nullable().defined(),
    sharpenPercent: yup.number().min(0).max(100).required(),
    sidecar: yup.boolean().required(),
    report: yup.boolean().required(),
    stamps: yup.boolean().required(),
    metadata: metadataSchema.required(),
    longEdgePx: yup.number().integer().min(16).max(65535).nullable().defined(),
    whenThere: yup.string().oneOf(whensThere).required(),
  })
  .noUnknown()

const intakeSchema = yup
  .object({
    folder: path.defined(),
    more: yup.array(path.defined()).max(50).required(),
    subfolders: yup.boolean().required(),
    without: yup.array(yup.string().required().max(200)).max(100).required(),
    only: yup.array(conditionSchema).max(20).required(),
    order: yup.string().oneOf(intakeOrders).required(),
    damaged: yup.string().oneOf(whensDamaged).required(),
  })
  .noUnknown()

const atTimesSchema = yup
  .object({
    when: yup.string().oneOf(['atTimes']).required(),
    at: yup
      .string()
      .matches(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time is written as HH:mm')
      .required(),
    days: yup.array(yup.number().integer().min(0).max(6).required()).max(7).required(),
  })
  .noUnknown()
const otherStartSchema = yup.object({ when: yup.string().oneOf(['byHand', 'arrivals']).required() }).noUnknown()
const startSchema = yup.lazy((value: unknown) =>
  (value as { when?: unknown } | null)?.when === 'atTimes' ? atTimesSchema.required() : otherStartSchema.required(),
)

export const loopSchema = yup
  .object({
    id: yup.string().required().max(64),
    name: yup.string().trim().required().max(120),
    intake: intakeSchema.required(),
    macros: yup
      .array(
        yup.object({ macroId: yup.string().required().max(64), revision: yup.number().integer().min(1).nullable().defined() }).noUnknown(),
      )
      .max(20)
      .required(),
    deliveries: yup.array(deliverySchema).max(20).required(),
    start: startSchema,
    numberSet: yup.number().integer().min(0).required(),
    version: yup.number().integer().min(0).required(),
  })
  .noUnknown()

export const benchEditSchema = yup
  .object({
    from: yup.number().integer().min(0).required(),
    expectedCursor: yup.number().integer().min(0).required(),
    added: yup.array(yup.object().required()).max(1000).required(),
    cursor: yup.number().integer().min(0).required(),
  })
  .noUnknown()

export const placeSchema = yup
  .object({
    samplePath: path.nullable().optional(),
    samples: yup.array(path.required()).max(8).optional(),
    macroId: yup.string().max(64).nullable().optional(),
  })
  .noUnknown()

export const keepSchema = yup
  .object({
    name: yup.string().required().max(120),
    notes: yup.string().default(''),
    tags: yup.array(yup.string().required()).default([]),
    steps: yup.array().required(),
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
    workers: yup.number().integer().min(1).max(mostWorkers).optional(),
    cacheMb: yup.number().integer().min(10).max(mostCacheMb).optional(),
  })
  .noUnknown()
export const passphraseSchema = yup.object({ passphrase: yup.string().defined().max(500) }).noUnknown()
export const backupSchema = yup.object({ name: yup.string().required().max(200) }).noUnknown()
export const restoreSchema = yup.object({ id: yup.string().required().max(64) }).noUnknown()
export const reviseSchema = yup.object({ steps: yup.array().required() }).noUnknown()
export const importSchema = yup.object({ text: yup.string().required() }).noUnknown()

/** An answer's kind depends on its question: the macro checks it. */
const isPoint = (value: unknown): boolean => Array.isArray(value) && value.length === 2 && value.every((part) => typeof part === 'number')
const anyAnswer = yup.mixed<string | number | boolean | object>((value): value is string | number | boolean | object =>
  Array.isArray(value) ? value.every(isPoint) : ['string', 'number', 'boolean'].includes(typeof value),
)

export const runWishesSchema = yup
  .object({
    answers: yup.lazy((value: unknown) =>
      yup
        .object(
          Object.fromEntries(
            Object.keys(typeof value === 'object' && value !== null ? value : {}).map((key) => [key, anyAnswer.required()]),
          ),
        )
        .optional(),
    ),
    only: yup.string().oneOf(['all', 'changed']).optional(),
    failedOf: yup.string().max(64).optional(),
    startAt: yup.number().integer().min(0).optional(),
  })
  .noUnknown()

/** The body of a request, checked. The limit is measured while it is read. @throws AppError `badRequest` */
export async function readBody<T>(request: Request, schema: yup.Schema<unknown>): Promise<T> {
  const pieces: Uint8Array[] = []
  let received = 0
  for await (const piece of piecesOf(request)) {
    received += piece.length
    if (received > maxBodyBytes) throw new AppError('badRequest', { reason: 'it is larger than 2 MB' })
    pieces.push(piece)
  }
  try {
    return (await schema.validate(JSON.parse(Buffer.concat(pieces).toString('utf8')), { strict: true })) as T
  } catch (error) {
    throw new AppError('badRequest', { reason: error instanceof yup.ValidationError ? error.message : 'it is not JSON' })
  }
}

export const readLoop = (request: Request): Promise<Loop> => readBody<Loop>(request, loopSchema)
export const readBenchEdit = (request: Request): Promise<BenchEdit> => readBody<BenchEdit>(request, benchEditSchema)

/** The window of the browser that a change comes from, if it says so. */
export const windowOf = (request: Request): string | null => request.headers.get(windowHeader)?.slice(0, 64) ?? null
