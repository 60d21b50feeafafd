import { findOperation } from '@/operations'
import { changeInner, innerSteps, type Step } from './step'

/*
 * Steps that look at a whole set: what is measured on its pictures is put into one of their settings before any of them is worked on. From
 * then on they are steps like any other.
 */

/** A step that waits for what its set gives. */
export interface SetStep {
  /** All that comes before it, in words: with the set, it decides what is measured. */
  readonly key: string
  readonly operation: string
  /** All steps that the pictures have gone through before it. */
  readonly before: readonly Step[]
}

export interface FilledMacros<M> {
  readonly macros: readonly M[]
  /** Keys of what was put in. */
  readonly filled: readonly string[]
  /** What each step got, by the step's id. */
  readonly values: ReadonlyMap<string, readonly number[]>
  /** The first step that waits, if any does: those behind it depend on what it does. */
  readonly waiting: SetStep | undefined
}

/** Puts what is known of a set into the steps that look at it. @param valuesOf by the step's key */
export function fillSetSteps<M extends { readonly steps: readonly Step[] }>(
  macros: readonly M[],
  valuesOf: (key: string) => readonly number[] | undefined,
): FilledMacros<M> {
  const before: Step[] = []
  const filled: string[] = []
  const given = new Map<string, readonly number[]>()
  let waiting: SetStep | undefined
  const fill = (step: Step): Step => {
    const operation = findOperation(step.operation)
    if (waiting || !operation?.ofSet || !waitsForSet(step)) return step
    const key = JSON.stringify([operation.id, before.map(whatItDoes)])
    const values = valuesOf(key)
    if (values) {
      filled.push(key)
      given.set(step.id, values)
    } else waiting = { key, operation: operation.id, before: [...before] }
    // Whatever else stands there was measured on another set.
    return withValues(step, values ?? [])
  }
  const fillAll = (steps: readonly Step[]): Step[] =>
    steps.map((step) => {
      const outside = before.length
      const next = step.enabled && looksInside(step) ? changeInner(step, fillAll) : fill(step)
      // What is played is one step to those behind it.
      before.length = outside
      before.push(next)
      return next
    })
  const done = macros.map((macro) => ({ ...macro, steps: fillAll(macro.steps) }))
  return { macros: done, filled, values: given, waiting }
}

const looksInside = (step: Step): boolean => innerSteps(step).some((inner) => waitsForSet(inner) || looksInside(inner))

const waitsForSet = ({ enabled, operation, settings }: Step): boolean =>
  enabled && (findOperation(operation)?.ofSet?.isWanted(settings) ?? false)

function withValues(step: Step, values: readonly number[]): Step {
  const { ofSet } = findOperation(step.operation) ?? {}
  return ofSet ? { ...step, settings: { ...step.settings, [ofSet.setting]: values } } : step
}

const whatItDoes = ({ id: _, note: __, open: ___, ...step }: Step): unknown => step

/** The same where it is known already what each step got. */
export const withSetValues = (steps: readonly Step[], values: ReadonlyMap<string, readonly number[]>): Step[] =>
  steps.map((step) => {
    if (looksInside(step)) return changeInner(step, (inner) => withSetValues(inner, values))
    return waitsForSet(step) ? withValues(step, values.get(step.id) ?? []) : step
  })
