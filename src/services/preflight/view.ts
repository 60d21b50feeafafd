import type { ErrorReport } from '@/base/errors'
import type { ForeseenPicture, ForeseenTarget } from './foresee'
import type { IntakeProgress } from './intake'
import type { KeptPreflight } from './kept'
import type { Preflight } from './preflight'

/** A list longer than this is not looked through row by row. */
const maxShown = 5_000

/** A picture of the list, and its place in the order of the run. */
export interface ShownPicture extends ForeseenPicture {
  readonly place: number
}

/** A preflight as a page shows it: problems first, then the order of the run. */
export interface PreflightView extends Omit<Preflight, 'macros' | 'newNumbers' | 'pictures'> {
  readonly pictures: readonly ShownPicture[]
  /** Names this check to the run that is started from it. */
  readonly token: string
  readonly filesToDeliver: number
  /** Pictures that go on pages, counted once for each delivery. */
  readonly onPages: number
  /** Pictures beyond those in the list. */
  readonly notShown: number
}

/** One line of the answer: how far it is, and at last what was found, or why it can't be. */
export type PreflightLine =
  | { readonly progress: IntakeProgress }
  | { readonly check: PreflightView }
  | { readonly problem: ErrorReport & { readonly sentence: string } }

const urgency = ({ error, remark }: ForeseenPicture): number => (error ? 0 : remark ? 1 : 2)

const countTargets = (pictures: readonly ForeseenPicture[], counts: (target: ForeseenTarget) => boolean): number =>
  pictures.reduce((sum, { skip, targets }) => sum + (skip ? 0 : targets.filter(counts).length), 0)

export function viewOfPreflight({ token, check: { macros: _, newNumbers: __, pictures, ...check } }: KeptPreflight): PreflightView {
  const sorted = pictures.map((picture, place) => ({ ...picture, place })).toSorted((a, b) => urgency(a) - urgency(b))
  return {
    ...check,
    token,
    pictures: sorted.slice(0, maxShown),
    notShown: Math.max(0, sorted.length - maxShown),
    filesToDeliver: countTargets(pictures, ({ captions }) => captions === undefined),
    onPages: countTargets(pictures, ({ captions }) => captions !== undefined),
  }
}
