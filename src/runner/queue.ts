import type { ErrorReport } from '@/base/errors'
import type { Claim, ItemOutcome } from '@/store/queue'

/**
 * Where a runner gets its work from and gives its answers to. The embedded adapter is the database itself; a networked queue for several
 * machines can take its place without the rest knowing: so nothing is answered at once. Every claim carries a token that rises with each
 * claim of its picture, and an answer whose token is not the newest changes nothing. An answer that can't be given yet is kept and given
 * again; until then its picture counts as in hand. `tests/queue-contract.ts` says the same in tests, for every adapter.
 */
export interface WorkQueue {
  /** The next picture, held under a lease, or nothing. */
  claim(): Promise<Claim | undefined>
  /** Writes an outcome. One whose claim no longer holds changes nothing. */
  finish(claim: Claim, outcome: ItemOutcome): Promise<void>
  /** Puts a picture back because its worker died. */
  giveBack(claim: Claim): Promise<void>
  /** Puts a picture back and holds its run until a fault is mended. */
  holdUp(claim: Claim, reason: ErrorReport): Promise<void>
  /** Signs of life, prolonged leases, answers kept so far, lost pictures taken back, ended runs closed. */
  tend(trouble: string | null): Promise<void>
  /** Whether there is or will be something to do without a person's doing. */
  hasWork(): Promise<boolean>
  /** The runner leaves: nobody should wait for it. */
  leave(): Promise<void>
}
