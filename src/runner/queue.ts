import type { ErrorReport } from '@/core/errors'
import type { Claim, ItemOutcome } from '@/db/queue'

/**
 * Where a runner gets its work from and gives its answers to. The embedded adapter is the database itself; a
 * networked queue for several machines can take its place without the rest knowing.
 */
export interface WorkQueue {
  /** The next picture, held under a lease, or nothing. */
  claim(): Claim | undefined
  /** Writes an outcome; false when the claim no longer holds. */
  finish(claim: Claim, outcome: ItemOutcome): boolean
  /** Puts a picture back: its worker died, or its run must pause. */
  giveBack(claim: Claim, why: 'crashes' | 'pause'): void
  /** Holds a run until a fault is mended. */
  pause(runId: string, reason: ErrorReport): void
  /** Signs of life, prolonged leases, lost pictures taken back, ended runs closed. */
  tend(): void
}
