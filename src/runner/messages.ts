import type { ErrorReport } from '@/base/errors'
import type { Delivery } from '@/jobs/delivery'
import type { WhenDamaged } from '@/jobs/loop'
import type { Step } from '@/macros/step'
import type { ItemOutcome } from '@/store/queue'

/** What is to be done to a picture. Plain data. */
export interface PictureTask {
  readonly runId: string
  readonly itemId: number
  /** Tells this try of the picture from all others: rises with each. */
  readonly token: number
  readonly damaged: WhenDamaged
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

/** What a worker is asked to do. */
export interface PictureJob extends PictureTask {
  /** Folders under which files may be opened and placed. */
  readonly roots: readonly string[]
}

export type PictureDelivery = ItemOutcome['delivered'][number]
export type PictureOutcome = ItemOutcome

/** Faults of the place a run writes to: the picture is not to blame and is tried again once they are mended. */
export const isMendable = (error: ErrorReport | undefined): boolean => error?.code === 'diskFull' || error?.code === 'deliveryUnwritable'
