import { defaultEncoding, type Encoding } from './encoding'

/** A standing job: take pictures from folders, put them through macros, deliver them to other folders. */
export interface Loop {
  readonly id: string
  readonly name: string
  readonly intake: LoopIntake
  readonly macros: readonly MacroUse[]
  readonly deliveries: readonly Delivery[]
}

export interface LoopIntake {
  /** Absolute path under a root. */
  readonly folder: string
  readonly subfolders: boolean
}

/** A macro on a loop's line: pinned to a revision, or following the newest (null). */
export interface MacroUse {
  readonly macroId: string
  readonly revision: number | null
}

/** One output of a loop. */
export interface Delivery extends Encoding {
  readonly id: string
  readonly name: string
  /** Absolute path under a root. */
  readonly folder: string
  /** See src/pictures/names.ts. */
  readonly namePattern: string
  /** Keep the intake's subfolders. */
  readonly mirrorFolders: boolean
  /** Long edge of the delivered picture; null keeps the macro's size. Never enlarges. */
  readonly longEdgePx: number | null
  readonly whenThere: WhenThere
}

/** What happens when a file of that name is there already. */
export type WhenThere = 'number' | 'skip'

export const defaultDelivery = (id: string, folder: string): Delivery => ({
  id,
  name: 'Web set',
  folder,
  namePattern: '{name}',
  mirrorFolders: false,
  ...defaultEncoding,
  longEdgePx: null,
  whenThere: 'number',
})

/** A delivery as it was stored, perhaps before some of its settings existed: those take their defaults. */
export const completeDelivery = (stored: Delivery): Delivery => ({ ...defaultDelivery(stored.id, stored.folder), ...stored })
