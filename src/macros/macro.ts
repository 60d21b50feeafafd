import type { Step } from './step'

/** An ordered list of steps with a name. A kept macro is one immutable revision of it. */
export interface Macro {
  readonly name: string
  readonly notes: string
  readonly tags: readonly string[]
  readonly steps: readonly Step[]
}

export const macroFormat = 'copper-loop/macro'
export const macroVersion = 1
