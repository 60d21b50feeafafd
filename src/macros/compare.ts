import { present } from '@/base/present'
import { type Step, stepName, stepSetting } from './step'

/** One line of a comparison of two lists of steps. */
export interface StepDifference {
  readonly kind: 'same' | 'changed' | 'added' | 'removed'
  readonly name: string
  /** The setting in words, after; before, for a step that is gone. */
  readonly setting: string
  /** Before, where it changed. */
  readonly was?: string
}

/** All that a step says, without its id: laying a macro on the bench gives its steps new ones. */
const content = ({ id: _, ...step }: Step): string => JSON.stringify(step)

/** Whether two lists of steps do the same, whatever ids they have. */
export const isSameSteps = (a: readonly Step[], b: readonly Step[]): boolean =>
  a.length === b.length && a.every((step, i) => content(step) === content(present(b[i])))

const words = (step: Step): string => `${stepSetting(step)}${step.enabled ? '' : ', off'}`

/**
 * Two lists of steps side by side: the longest run of the same operations in the same order stays (longest common subsequence);
 * what stands between was added or removed.
 */
export function compareSteps(before: readonly Step[], after: readonly Step[]): StepDifference[] {
  const longest = Array.from({ length: before.length + 1 }, () => new Array<number>(after.length + 1).fill(0))
  const at = (i: number, j: number): number => longest[i]?.[j] ?? 0
  const alike = (i: number, j: number): boolean => before[i]?.operation === after[j]?.operation
  // Steps that are the very same count for more than those that were changed.
  const worth = (i: number, j: number): number => (content(present(before[i])) === content(present(after[j])) ? 2 : 1)
  for (let i = before.length - 1; i >= 0; i--)
    for (let j = after.length - 1; j >= 0; j--)
      present(longest[i])[j] = Math.max(at(i + 1, j), at(i, j + 1), alike(i, j) ? at(i + 1, j + 1) + worth(i, j) : 0)

  const lines: StepDifference[] = []
  let [i, j] = [0, 0]
  while (i < before.length || j < after.length) {
    const [old, now] = [before[i], after[j]]
    if (old && now && alike(i, j) && at(i, j) === at(i + 1, j + 1) + worth(i, j)) {
      const isSame = content(old) === content(now)
      lines.push({ kind: isSame ? 'same' : 'changed', name: stepName(now), setting: words(now), ...(isSame ? {} : { was: words(old) }) })
      i++
      j++
    } else if (now && (!old || at(i, j + 1) >= at(i + 1, j))) {
      lines.push({ kind: 'added', name: stepName(now), setting: words(now) })
      j++
    } else if (old) {
      lines.push({ kind: 'removed', name: stepName(old), setting: words(old) })
      i++
    }
  }
  return lines
}
