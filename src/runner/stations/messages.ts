import * as yup from 'yup'
import type { ErrorReport } from '@/base/errors'
import type { StationState } from '@/jobs/station'
import type { PictureOutcome, PictureTask } from '../messages'

/*
 * What main machine and stations say to each other through Redis. Plain data; what comes in is checked before it is used.
 */

/** A picture on its way to a station. Paths are the main machine's. */
export interface StationJob {
  readonly task: PictureTask
  readonly crashes: number
  readonly runNumber: number
  /** What the main machine's build is: a station of another one leaves it alone. */
  readonly build: string
}

/** What a station says of a picture. */
export type StationAnswer =
  | { readonly kind: 'finished'; readonly outcome: PictureOutcome }
  /** Its worker died of it. */
  | { readonly kind: 'workerLost' }
  /** The station that had it before was lost. */
  | { readonly kind: 'stationLost' }
  /** It was not begun, or what came of it does not count. */
  | { readonly kind: 'putBack' }
  /** The place it writes to has a fault that can be mended. */
  | { readonly kind: 'heldUp'; readonly reason: ErrorReport }

/** A folder that all share, and what a file in it says, so that a station can tell whether it has the same one. */
export interface SharedRoot {
  /** As the main machine's Settings call it. */
  readonly path: string
  /** Where that leads there: paths of pictures begin like this. */
  readonly real: string
  readonly sign: string
}

/** What the main machine says of itself. */
export interface MainSign {
  /** Which application it is: of several that use one Redis by mistake, the first keeps it. */
  readonly application: string
  readonly build: string
  readonly version: string
  readonly roots: readonly SharedRoot[]
  /** Where it may be asked for files kept with macros; several, where it has several addresses. */
  readonly addresses: readonly string[]
  readonly secret: string
  /** Milliseconds since 1970 by its own clock. */
  readonly at: number
}

/** What a station says of itself. */
export interface StationSign extends StationState {
  readonly id: string
  readonly build: string
  /** When it said this: milliseconds since 1970 by the clock of Redis. */
  readonly at: number
}

const text = yup.string().max(500)
const count = yup.number().integer().min(0).required()
const details = yup.mixed<ErrorReport['details']>((value): value is ErrorReport['details'] => typeof value === 'object')

const report = yup.object({ code: yup.string().required(), details: details.required() })

const mainSchema = yup.object({
  application: yup.string().required(),
  build: yup.string().required(),
  version: yup.string().required(),
  roots: yup.array(yup.object({ path: yup.string().required(), real: yup.string().required(), sign: yup.string().required() })).required(),
  addresses: yup.array(yup.string().url().required()).max(50).required(),
  secret: yup.string().required(),
  at: yup.number().required(),
})

const stationSchema = yup.object({
  id: text.required(),
  name: text.required(),
  cores: count,
  workers: count.max(1024),
  busy: count,
  build: text.required(),
  version: text.required(),
  picturesPerMinute: yup.number().min(0).required(),
  done: count,
  startedAt: yup.number().required(),
  trouble: yup.string().max(2000).nullable().defined(),
  at: yup.number().required(),
})

const answerSchemas: Readonly<Record<StationAnswer['kind'], yup.Schema>> = {
  finished: yup.object({
    outcome: yup
      .object({
        state: yup.string().oneOf(['done', 'failed']).required(),
        milliseconds: yup.number().min(0).required(),
        sourceHash: yup.string().matches(/^[0-9a-f]{64}$/),
        sourceUnchanged: yup.boolean(),
        error: report.default(undefined),
        remarks: yup.array(report.required()).max(50),
        delivered: yup
          .array(
            yup.object({
              resultId: count,
              targetPath: yup.string().required(),
              sizeBytes: count,
              hash: yup
                .string()
                .matches(/^[0-9a-f]{64}$/)
                .required(),
              width: count,
              height: count,
            }),
          )
          .required(),
      })
      .required(),
  }),
  workerLost: yup.object(),
  stationLost: yup.object(),
  putBack: yup.object(),
  heldUp: yup.object({ reason: report.required() }),
}

const parsed = <T>(schema: yup.Schema, said: unknown): T | undefined => {
  try {
    return schema.validateSync(said, { strict: true }) as T
  } catch {
    return undefined
  }
}

const fromJson = (said: string | null | undefined): unknown => {
  try {
    return JSON.parse(said ?? 'null')
  } catch {
    return null
  }
}

/** @returns nothing for what is no sign of a main machine */
export const readMainSign = (said: string | null): MainSign | undefined => parsed<MainSign>(mainSchema, fromJson(said))

/** @returns nothing for what is no sign of a station */
export const readStationSign = (said: string): StationSign | undefined => parsed<StationSign>(stationSchema, fromJson(said))

/** @returns nothing for what is no answer */
export function readAnswer(said: unknown): StationAnswer | undefined {
  const { kind } = (said ?? {}) as { kind?: StationAnswer['kind'] }
  const schema = kind === undefined ? undefined : answerSchemas[kind]
  return schema && parsed<StationAnswer>(schema, said)
}
