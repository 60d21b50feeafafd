import { deliverySteps } from '@/jobs/delivery-steps'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import type { Step } from '@/macros/step'
import type { MarkKind, PictureTraits } from '@/pixels/traits'
import type { DeliveredSource } from '@/store/delivered'
import * as runStore from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from './context'
import { loopById } from './loops'
import { measureSet } from './measure-set'
import { frozenMacros } from './preflight/frozen-macros'
import { findPictures, type Watcher } from './preflight/intake'
import { knownTraits, proofKeys } from './proof-pictures'
import { lastDeliveries } from './runs/last-delivery'
import { runSummary } from './runs/summary'
import { silentMarks } from './settings'
import { matchTouchUps, type ShownTouchUp, touchUpsOf } from './touch-ups'

/** A picture as it was delivered last. */
export interface DeliveredPicture {
  /** Its first delivery's. */
  readonly resultId: number
  /** What it had of its own then. */
  readonly touchUp: TouchUp
  readonly traits: PictureTraits | null
}

/** A picture as it stands in a proof: in the order of the run. */
export interface ProofPicture {
  readonly sourcePath: string
  readonly relativePath: string
  /** Whether it is of the run whose proof this is; of a loop's, all are. */
  readonly inRun: boolean
  /** Null where it never was delivered. */
  readonly delivered: DeliveredPicture | null
  /** What was measured on it as it would be delivered now; null where nobody has looked yet. */
  readonly traits: PictureTraits | null
}

/** All that is needed to look a loop's set through: its pictures, what they are put through, and what each has of its own. */
export interface Proof {
  readonly loopId: string
  readonly loop: string
  /** The run whose delivered files are shown, where it is the proof of one. */
  readonly run: number | null
  readonly pictures: readonly ProofPicture[]
  readonly macros: readonly FrozenMacro[]
  /** Where its first delivery goes; empty for none. */
  readonly deliversTo: string
  /** Whether its first delivery wants stamps. */
  readonly stamps: boolean
  /** What its first delivery does behind the macros: its size, and sharpening for it. */
  readonly finish: readonly Step[]
  readonly touchUps: readonly ShownTouchUp[]
  /** What is not told of pictures that stand out. */
  readonly silent: readonly MarkKind[]
}

const silent = (): void => undefined

export interface ProofWish {
  readonly loopId: string
  /** The pictures of this run among all that the loop has delivered: a picture is judged among its neighbours. */
  readonly runId?: string
}

/**
 * Looks for the pictures and what is known of them, and reads none, unless a step looks at the set: that one can't be read is said where it
 * would be shown.
 * @throws AppError `notFound`
 */
export async function proofOfLoop(context: Context, { loopId, runId }: ProofWish, watcher: Watcher = {}): Promise<Proof> {
  const loop = loopById(context, loopId)
  const { found } = await findPictures(context, loop, silent, watcher)
  await measureSet(context, loop, { found, isWhole: true }, watcher)
  const macros = frozenMacros(context, loop, silent)
  // Pictures that were moved or renamed take their touch-ups along.
  await matchTouchUps(context, loop, found)
  const touchUps = touchUpsOf(context, loopId)
  const own = new Map(touchUps.map(({ sourcePath, touchUp }) => [sourcePath, touchUp]))
  const ofRun = runId === undefined ? undefined : new Set(runStore.listItemsBriefly(context.db, runId).map(({ sourcePath }) => sourcePath))
  const delivered = lastDeliveries(context, loopId)
  const keyOf = proofKeys({ loop, macros })
  const [first] = loop.deliveries
  const pictures = found
    .filter(({ path }) => !ofRun || ofRun.has(path) || delivered.has(path))
    .map(async ({ path, relativePath, ...file }) => ({
      sourcePath: path,
      relativePath,
      inRun: ofRun?.has(path) ?? true,
      delivered: deliveredPicture(delivered.get(path), first?.id),
      traits: await knownTraits(context, keyOf({ sourcePath: path, ...file }, own.get(path) ?? untouched)),
    }))
  return {
    loopId,
    loop: loop.name,
    run: runId === undefined ? null : runSummary(context, runId).number,
    pictures: await Promise.all(pictures),
    macros,
    deliversTo: first?.folder ?? '',
    stamps: first?.stamps ?? true,
    finish: first ? deliverySteps(first) : [],
    touchUps,
    silent: silentMarks(context),
  }
}

/** The proof of a run: its pictures, as they were delivered last. @throws AppError `notFound`, also where its loop is gone */
export const proofOfRun = (context: Context, { runId }: { runId: string }, watcher: Watcher = {}): Promise<Proof> =>
  proofOfLoop(context, { loopId: runSummary(context, runId).loopId, runId }, watcher)

/** The file of the wanted delivery, else of any. */
function deliveredPicture(last: DeliveredSource | undefined, deliveryId: string | undefined): DeliveredPicture | null {
  const result = last?.results.find((candidate) => candidate.deliveryId === deliveryId) ?? last?.results[0]
  return last && result?.hash ? { resultId: result.id, touchUp: last.touchUp ?? untouched, traits: result.traits } : null
}
