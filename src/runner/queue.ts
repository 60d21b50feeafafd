import type { ErrorReport } from '@/base/errors'
import type { ItemOutcome } from '@/store/queue'
import type { PictureTask } from './messages'

/** A picture in hand: what is to be done to it, with the token that its answer must carry. Plain data. */
export interface Claim {
  readonly task: PictureTask
  /** How often a worker has died of it. */
  readonly crashes: number
  /** The run as people call it. */
  readonly runNumber: number
}

/**
 * Where a runner gets its work from and gives its answers to: the application's own database, or a queue that several machines share. The
 * runner does not know which, so nothing is answered at once. Every claim carries a token that rises with each claim of its picture, and an
 * answer whose token is not the newest changes nothing. An answer that can't be given yet is kept and given again; until then its picture
 * counts as in hand. `tests/queue-contract.ts` says the same in tests, for every adapter.
 */
export interface WorkQueue {
  /** The next picture, held under a lease, or nothing. */
  claim(): Promise<Claim | undefined>
  /** Whether a claim still holds: asked before a file is placed. */
  holds(claim: Claim): Promise<boolean>
  /** Writes an outcome. One whose claim no longer holds changes nothing. */
  finish(claim: Claim, outcome: ItemOutcome): Promise<void>
  /** Puts a picture back because its worker died. */
  giveBack(claim: Claim): Promise<void>
  /** Puts a picture back as if it had never been taken. */
  putBack(claim: Claim): Promise<void>
  /** Puts a picture back and holds its run until a fault is mended. */
  holdUp(claim: Claim, reason: ErrorReport): Promise<void>
  /** Signs of life, prolonged leases, answers kept so far, lost pictures taken back, ended runs closed. */
  tend(trouble: string | null): Promise<void>
  /** The runner leaves: nobody should wait for it. */
  leave(): Promise<void>
}
