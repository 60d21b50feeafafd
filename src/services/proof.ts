import { type TouchUp, untouched } from '@/jobs/touch-up'
import type { PictureTraits } from '@/pixels/traits'
import * as runStore from '@/store/runs'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from './context'
import { loopById } from './loops'
import type { Watcher } from './preflight/intake'
import { preflight } from './preflight/preflight'
import { knownTraits, proofKey } from './proof-pictures'
import { lastDelivery } from './runs/last-delivery'
import { runSummary } from './runs/summary'
import { type ShownTouchUp, touchUpsOf } from './touch-ups'

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
  /** Why it can't be shown, in words. */
  readonly error: string | null
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
  /** Whether its first delivery wants stamps. */
  readonly stamps: boolean
  readonly touchUps: readonly ShownTouchUp[]
}

export interface ProofWish {
  readonly loopId: string
  /** Only the pictures of this run, and as they were delivered. */
  readonly runId?: string
}

/** @throws AppError `notFound` */
export async function proofOfLoop(context: Context, { loopId, runId }: ProofWish, watcher: Watcher = {}): Promise<Proof> {
  const loop = loopById(context, loopId)
  const ofRun = runId === undefined ? undefined : new Set(runStore.listItemsBriefly(context.db, runId).map(({ sourcePath }) => sourcePath))
  const { pictures, macros } = await preflight(context, loop, {}, watcher)
  const making = { loop, macros }
  const touchUps = touchUpsOf(context, loopId)
  const own = new Map(touchUps.map(({ sourcePath, touchUp }) => [sourcePath, touchUp]))
  const shown = pictures.filter(({ sourcePath }) => ofRun?.has(sourcePath) ?? true)
  return {
    loopId,
    loop: loop.name,
    run: runId === undefined ? null : runSummary(context, runId).number,
    pictures: await Promise.all(
      shown.map(async (picture) => ({
        sourcePath: picture.sourcePath,
        relativePath: picture.relativePath,
        error: picture.error && picture.remark,
        delivered: deliveredPicture(context, loop.deliveries[0]?.id, loopId, picture.sourcePath),
        traits: await knownTraits(context, proofKey(making, picture, own.get(picture.sourcePath) ?? untouched)),
      })),
    ),
    macros,
    stamps: loop.deliveries[0]?.stamps ?? true,
    touchUps,
  }
}

/** The proof of a run: its pictures, as they were delivered last. @throws AppError `notFound`, also where its loop is gone */
export const proofOfRun = (context: Context, { runId }: { runId: string }, watcher: Watcher = {}): Promise<Proof> =>
  proofOfLoop(context, { loopId: runSummary(context, runId).loopId, runId }, watcher)

function deliveredPicture(context: Context, deliveryId: string | undefined, loopId: string, sourcePath: string): DeliveredPicture | null {
  const last = lastDelivery(context, loopId, sourcePath)
  const result = last?.results.find((candidate) => candidate.deliveryId === deliveryId) ?? last?.results[0]
  return last && result ? { resultId: result.id, touchUp: last.touchUp ?? untouched, traits: result.traits } : null
}
