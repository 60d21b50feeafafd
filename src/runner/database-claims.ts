import type { ErrorReport } from '@/base/errors'
import type { Database } from '@/store/database'
import * as queue from '@/store/queue'
import { advanceRun, type StoredItem } from '@/store/runs'
import { claimOf } from './claims'
import type { Claim } from './queue'

export const leaseMs = 60_000

/** A claimed picture as the database knows it again. */
export type HeldItem = Pick<StoredItem, 'id' | 'token' | 'runId'>

const heldItem = ({ task: { itemId, token, runId } }: Claim): HeldItem => ({ id: itemId, token, runId })

export interface DatabaseClaimsOptions {
  readonly now?: () => number
  /** Whether pictures of a run can be worked on here; without it, all can. */
  readonly suits?: queue.Suits
  /** Clears what a lost worker may have left of a picture; it never fails. */
  readonly clearUnfinished?: (item: HeldItem) => void
  onProblem?(problem: unknown): void
}

/** How often those who had a picture may be lost, and what is said once that is reached. */
export interface LossLimit {
  readonly max: number
  readonly reason: string
}

/** Pictures of the application's own database, claimed and answered in the name of one who works on them. */
export class DatabaseClaims<Options extends DatabaseClaimsOptions = DatabaseClaimsOptions> {
  private readonly inHand = new Map<number, Claim>()
  /** Answers that could not be given yet. */
  private readonly unanswered = new Map<Claim, () => void>()

  constructor(
    protected readonly db: Database,
    protected readonly id: string,
    protected readonly options: Options,
  ) {
    this.beat(null)
  }

  protected now(): number {
    return this.options.now?.() ?? Date.now()
  }

  get handCount(): number {
    return this.inHand.size
  }

  protected isInHand({ id, token }: HeldItem): boolean {
    return this.inHand.get(id)?.task.token === token
  }

  async claim(): Promise<Claim | undefined> {
    return this.claimSome(1)[0]
  }

  /** So many pictures at once, or as many as there are. */
  claimSome(most: number): Claim[] {
    const claims = queue.claimItems(this.db, this.id, this.now(), leaseMs, most, this.options.suits).map(claimOf)
    for (const claim of claims) this.inHand.set(claim.task.itemId, claim)
    return claims
  }

  /** Writes several answers as one. */
  together(answers: () => void): void {
    try {
      this.db.transaction(answers, { behavior: 'immediate' })
    } catch (error) {
      // Another program holds the database: each is kept until it is free.
      this.options.onProblem?.(error)
      answers()
    }
  }

  /** Takes up what the same owner had in hand when its process ended. */
  adopt(): Claim[] {
    const claims = queue.claimedBy(this.db, this.id).map(claimOf)
    for (const claim of claims) this.inHand.set(claim.task.itemId, claim)
    return claims
  }

  /** Which of some runs nothing should be begun of now. */
  notServed(runIds: readonly string[]): Set<string> {
    return queue.notServed(this.db, runIds, this.now(), this.options.suits)
  }

  async holds({ task }: Claim): Promise<boolean> {
    return queue.isHeld(this.db, task)
  }

  async finish(claim: Claim, outcome: queue.ItemOutcome): Promise<void> {
    this.answer(claim, (item) => queue.finishItem(this.db, item, outcome, this.now()))
  }

  async giveBack(claim: Claim): Promise<void> {
    this.options.clearUnfinished?.(heldItem(claim))
    this.answer(claim, (item) => queue.returnItem(this.db, item, 'crashes'))
  }

  /** Puts a picture back because the machine that had it was lost; after the most of such losses it fails. */
  async giveBackLost(claim: Claim, most: LossLimit): Promise<void> {
    this.answer(claim, ({ id, token }) => {
      const item = queue.itemsInWork(this.db).find((candidate) => candidate.id === id && candidate.token === token)
      if (item) this.takeBack(item, most)
    })
  }

  async putBack(claim: Claim): Promise<void> {
    this.answer(claim, (item) => queue.returnItem(this.db, item, 'pause'))
  }

  async holdUp(claim: Claim, reason: ErrorReport): Promise<void> {
    this.answer(claim, (item) =>
      // Both or neither: the picture would be claimed again before its run is paused.
      this.db.transaction(
        () => {
          queue.returnItem(this.db, item, 'pause')
          advanceRun(this.db, item.runId, 'faulted', this.now(), reason)
        },
        { behavior: 'immediate' },
      ),
    )
  }

  /** Puts a picture in work back in line because whoever had it is gone; one that keeps taking others down is given up. */
  protected takeBack(item: StoredItem, { max, reason }: LossLimit): void {
    this.options.clearUnfinished?.(item)
    if (item.interruptions + 1 < max) queue.returnItem(this.db, item, 'interruptions')
    else {
      const error: ErrorReport = { code: 'workerCrashed', details: { path: item.sourcePath, reason } }
      queue.finishItem(this.db, item, { state: 'failed', milliseconds: 0, error, delivered: [] }, this.now())
    }
  }

  /** Gives an answer, or keeps it for the next beat while another program holds the database. */
  private answer(claim: Claim, write: (item: HeldItem) => void): void {
    this.give(claim, () => write(heldItem(claim)))
  }

  private give(claim: Claim, give: () => void): void {
    try {
      give()
      this.unanswered.delete(claim)
      // A late answer must not let go of the picture's newest claim.
      if (this.inHand.get(claim.task.itemId) === claim) this.inHand.delete(claim.task.itemId)
    } catch (error) {
      this.options.onProblem?.(error)
      this.unanswered.set(claim, give)
    }
  }

  async tend(trouble: string | null): Promise<void> {
    this.beat(trouble)
  }

  private beat(trouble: string | null): void {
    const now = this.now()
    queue.beat(this.db, { id: this.id, processId: process.pid, trouble }, now)
    for (const [claim, give] of [...this.unanswered]) this.give(claim, give)
    queue.renewLeases(this.db, this.id, [...this.inHand.keys()], now + leaseMs)
  }

  async leave(): Promise<void> {
    queue.leave(this.db, this.id)
  }
}
