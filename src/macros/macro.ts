import type { Step } from './step'

/** An ordered list of steps with a name. A kept macro is one immutable revision of it. */
export interface Macro {
  readonly name: string
  readonly notes: string
  readonly tags: readonly string[]
  readonly steps: readonly Step[]
}

/** Marks what a recording left on the shelf and nobody has named yet. */
export const draftTag = 'draft'

export const isDraft = ({ tags }: Pick<Macro, 'tags'>): boolean => tags.includes(draftTag)

export const macroFormat = 'copper-loop/macro'
export const macroVersion = 1
