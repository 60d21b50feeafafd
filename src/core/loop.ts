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
export interface Delivery {
  readonly id: string
  readonly name: string
  /** Absolute path under a root. */
  readonly folder: string
  /** See src/pictures/names.ts. */
  readonly namePattern: string
  /** Keep the intake's subfolders. */
  readonly mirrorFolders: boolean
  readonly format: 'jpeg'
  /** 1–100. */
  readonly qualityPercent: number
  readonly chroma: '4:4:4' | '4:2:0'
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
  format: 'jpeg',
  qualityPercent: 88,
  chroma: '4:4:4',
  longEdgePx: null,
  whenThere: 'number',
})
