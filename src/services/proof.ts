import { type TouchUp, untouched } from '@/jobs/touch-up'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from './context'
import { loopById } from './loops'
import type { Watcher } from './preflight/intake'
import { preflight } from './preflight/preflight'
import { lastDelivery } from './runs/last-delivery'
import { type ShownTouchUp, touchUpsOf } from './touch-ups'

/** A picture as it stands in a proof: in the order of the run. */
export interface ProofPicture {
  readonly sourcePath: string
  readonly relativePath: string
  /** Why it can't be shown, in words. */
  readonly error: string | null
  /** What it had of its own when it was delivered last; null where it never was. */
  readonly deliveredWith: TouchUp | null
}

/** All that is needed to look a loop's set through: its pictures, what they are put through, and what each has of its own. */
export interface Proof {
  readonly loopId: string
  readonly loop: string
  readonly pictures: readonly ProofPicture[]
  readonly macros: readonly FrozenMacro[]
  /** Whether its first delivery wants stamps. */
  readonly stamps: boolean
  readonly touchUps: readonly ShownTouchUp[]
}

/** @throws AppError `notFound` */
export async function proofOfLoop(context: Context, loopId: string, watcher: Watcher = {}): Promise<Proof> {
  const loop = loopById(context, loopId)
  const { pictures, macros } = await preflight(context, loop, {}, watcher)
  return {
    loopId,
    loop: loop.name,
    pictures: pictures.map(({ sourcePath, relativePath, error, remark }) => ({
      sourcePath,
      relativePath,
      error: error && remark,
      deliveredWith: deliveredWith(context, loopId, sourcePath),
    })),
    macros,
    stamps: loop.deliveries[0]?.stamps ?? true,
    touchUps: touchUpsOf(context, loopId),
  }
}

function deliveredWith(context: Context, loopId: string, sourcePath: string): TouchUp | null {
  const last = lastDelivery(context, loopId, sourcePath)
  return last ? (last.touchUp ?? untouched) : null
}
