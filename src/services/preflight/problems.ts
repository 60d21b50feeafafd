import type { Loop } from '@/jobs/loop'

/* What a preflight finds, and how it is said. */

export type ProblemArea = 'intake' | 'macros' | 'delivery' | 'pictures'

/** A change of the loop that does away with a problem. */
export interface Mend {
  /** What it does, as the words on a button. */
  readonly label: string
  readonly change: Partial<Pick<Loop, 'intake' | 'macros' | 'deliveries' | 'numberSet'>>
}

/** Something that is done besides the loop, to do away with a problem. */
export interface Remedy {
  readonly label: string
  readonly does: 'dropLostSteps' | 'measureSetAnew'
}

export interface Problem {
  readonly area: ProblemArea
  /** A run can't start while one of these stands. */
  readonly blocks: boolean
  readonly sentence: string
  readonly mend?: Mend
  readonly remedy?: Remedy
  /** Nothing is wrong, there is only nothing to do yet. */
  readonly nothingToDo?: true
  /** Nothing is wrong, it is only not filled in yet. */
  readonly toFillIn?: true
  /** It is about a folder that is asked before each run: the answer does away with it. */
  readonly isAsked?: true
  /** The delivery whose name pattern can't be read, by id. */
  readonly wrongName?: string
}

export type AddProblem = (
  area: ProblemArea,
  blocks: boolean,
  sentence: string,
  more?: Pick<Problem, 'mend' | 'remedy' | 'nothingToDo' | 'toFillIn' | 'isAsked' | 'wrongName'>,
) => void

/** Adds problems of a folder that is asked before each run, where it is. */
export const askedBefore = (isAsked: boolean, add: AddProblem): AddProblem =>
  isAsked ? (area, blocks, sentence, more) => add(area, blocks, sentence, { ...more, ...(blocks ? { isAsked: true } : {}) }) : add

/** Names are said up to this many. */
const maxNamed = 5
export const named = (names: readonly string[]): string =>
  names.length > maxNamed ? `${names.slice(0, maxNamed).join(', ')} and ${names.length - maxNamed} more` : names.join(', ')
