import type { ErrorReport } from '@/core/errors'
import type { Delivery } from '@/core/loop'
import type { ItemOutcome } from '@/db/queue'
import type { Step } from '@/macro/step'

/** What a worker is asked to do. Plain data. */
export interface PictureJob {
  readonly runId: string
  readonly itemId: number
  readonly sourcePath: string
  /** The source as it was when the run's list was made. */
  readonly sizeBytes: number
  readonly modifiedMs: number
  readonly steps: readonly Step[]
  /** The macros the steps come from, for whoever asks later. */
  readonly macros: readonly { readonly name: string; readonly revision: number }[]
  readonly targets: readonly {
    readonly resultId: number
    readonly path: string
    readonly delivery: Delivery
    /** SHA-256 of the file that this one may come in the place of. */
    readonly replaces: string | null
  }[]
}

export type PictureDelivery = ItemOutcome['delivered'][number]
export type PictureOutcome = ItemOutcome

/** Runner → worker, worker → runner. */
export type ToWorker = { readonly type: 'picture'; readonly job: PictureJob }
export type FromWorker =
  | { readonly type: 'ready' }
  | { readonly type: 'outcome'; readonly itemId: number; readonly outcome: PictureOutcome }

/** Faults of the place a run writes to: the picture is not to blame and is tried again once they are mended. */
export const isMendable = (error: ErrorReport | undefined): boolean => error?.code === 'diskFull' || error?.code === 'deliveryUnwritable'
