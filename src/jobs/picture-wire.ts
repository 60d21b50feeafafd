import { memoised } from '@/base/lru-cache'
import type { Step } from '@/macros/step'
import type { Settings } from '@/operations'
import { type MacroSteps, type StepAddress, type TouchUp, touchedSteps } from './touch-up'

/*
 * A picture of a loop on the bench: the steps of the loop's macros and those that are its own lie on one wire. What is changed there is
 * kept for this picture, as its touch-up, or for all, in the macros.
 */

/** What lies on the bench for one picture of a loop. */
export interface PictureOnBench {
  readonly loopId: string
  readonly loop: string
  readonly sourcePath: string
  readonly macros: readonly (MacroSteps & { readonly name: string; readonly revision: number })[]
  /** What it had of its own when it was laid, and which version that was. */
  readonly touchUp: TouchUp
  readonly version: number
  /** Other pictures that were picked in the proof. */
  readonly picked: readonly string[]
  /** Where the proof is that it came from: a path of this application. */
  readonly back: string
}

type Laid = Pick<PictureOnBench, 'macros' | 'touchUp'>

/** On the wire a step's id says which macro it is of: two macros of a loop may have steps of one id. */
const wireId = (macro: number, stepId: string): string => `m${macro}-${stepId}`

/** The steps as they are laid on the wire. */
export const wireOfPicture = ({ macros, touchUp }: Laid): Step[] => {
  const named = macros.map(({ macroId, steps }, i) => ({ macroId, steps: steps.map((step) => ({ ...step, id: wireId(i, step.id) })) }))
  const address = ({ macroId, stepId }: StepAddress): StepAddress => ({
    macroId,
    stepId: wireId(
      macros.findIndex((macro) => macro.macroId === macroId),
      stepId,
    ),
  })
  return touchedSteps(named, {
    ...touchUp,
    settings: touchUp.settings.map((other) => ({ ...other, ...address(other) })),
    without: touchUp.without.map(address),
  })
}

interface OfMacro extends StepAddress {
  readonly macro: number
  readonly step: Step
}

/** The steps of the macros, by the id they have on the wire, in order. */
const macroSteps = memoised(
  ({ macros }: Pick<Laid, 'macros'>): ReadonlyMap<string, OfMacro> =>
    new Map(
      macros.flatMap(({ macroId, steps }, macro) =>
        steps.map((step) => [wireId(macro, step.id), { macroId, stepId: step.id, macro, step }] as const),
      ),
    ),
)

const differing = (to: Settings, from: Settings): Settings =>
  Object.fromEntries(Object.entries(to).filter(([key, value]) => JSON.stringify(value) !== JSON.stringify(from[key])))

/** Whether a step on the wire is this picture's only: it is none of the loop's, or is set otherwise than there. */
export function isOfPictureOnly(laid: Pick<Laid, 'macros'>, { id, ...step }: Step): boolean {
  const known = macroSteps(laid).get(id)
  return !known || Object.keys(differing(step.settings, known.step.settings)).length > 0
}

/** What is settled besides its settings. */
const restOf = ({ operation, enabled, strengthPercent, blend, when, limit = [] }: Step): string =>
  JSON.stringify([operation, enabled, strengthPercent, blend, when, limit])

/** A touch-up, or why the wire can't be one, in a sentence. */
export type WireTouchUp = { readonly touchUp: TouchUp } | { readonly problem: string }

/** What of the wire is kept for this picture alone. */
export function touchUpOfWire(laid: Laid, wire: readonly Step[]): WireTouchUp {
  const known = macroSteps(laid)
  const ofMacros = wire.filter(({ id }) => known.has(id))
  const inOrder = [...known.keys()].filter((id) => ofMacros.some((step) => step.id === id))
  if (ofMacros.some(({ id }, i) => id !== inOrder[i]))
    return { problem: 'The loop’s steps lie in another order. That can be kept for all only.' }
  const first = wire.findIndex(({ id }) => known.has(id))
  const last = wire.findLastIndex(({ id }) => known.has(id))
  const own = wire.flatMap((step, at) => (known.has(step.id) ? [] : [{ step, at }]))
  if (own.some(({ at }) => at > first && at < last))
    return { problem: 'One picture’s own steps stand before or behind all of the loop’s. Between them a step can be kept for all only.' }
  const without = [...known].flatMap(([id, { macroId, stepId, step }]) => {
    const there = wire.find((candidate) => candidate.id === id)
    return step.enabled && !there?.enabled ? [{ macroId, stepId }] : []
  })
  const settings: TouchUp['settings'][number][] = []
  for (const step of ofMacros) {
    const { macroId, stepId, step: before } = known.get(step.id) as OfMacro
    const isSwitchedOff = before.enabled && !step.enabled
    if (restOf({ ...step, enabled: before.enabled }) !== restOf(before) || (step.enabled && !before.enabled))
      return {
        problem:
          'Of the loop’s steps one picture can have other settings. Strength, blending, conditions and limits can be kept for all only.',
      }
    const other = differing(step.settings, before.settings)
    if (!isSwitchedOff && Object.keys(other).length > 0) settings.push({ macroId, stepId, settings: other })
  }
  const { setAside, lookedAt } = laid.touchUp
  const at = (from: number, to: number): Step[] => own.filter((one) => one.at >= from && one.at < to).map(({ step }) => step)
  const split = first < 0 ? wire.length : first
  return { touchUp: { settings, without, before: at(0, split), after: at(split, wire.length), setAside, lookedAt } }
}

/** A macro's new steps. */
export interface RevisedMacro {
  readonly macroId: string
  readonly steps: readonly Step[]
}

/**
 * What of the wire is kept for all: what was changed there since it was laid. What the picture had of its own before stays its own.
 * @returns the macros that change, and the touch-up that is left
 */
export function macrosOfWire(laid: Laid, wire: readonly Step[]): { readonly macros: readonly RevisedMacro[]; readonly touchUp: TouchUp } {
  const known = macroSteps(laid)
  const before = new Map(wireOfPicture(laid).map((step) => [step.id, step]))
  const own = new Set([...laid.touchUp.before, ...laid.touchUp.after].map(({ id }) => id))
  const next = laid.macros.map(({ macroId }) => ({ macroId, steps: [] as Step[] }))
  const changed = new Map<string, string[]>()
  let macro = 0
  for (const step of wire) {
    const of = known.get(step.id)
    if (of) macro = of.macro
    if (!of && own.has(step.id)) continue
    const edit = of ? differing(step.settings, before.get(step.id)?.settings ?? {}) : {}
    if (of) changed.set(step.id, Object.keys(edit))
    next[macro]?.steps.push(of ? { ...step, id: of.stepId, settings: { ...of.step.settings, ...edit } } : step)
  }
  // What was left out for this picture was no part of the wire: it stays in the macro.
  for (const { macroId, stepId } of laid.touchUp.without) {
    const index = laid.macros.findIndex((one) => one.macroId === macroId)
    const steps = laid.macros[index]?.steps ?? []
    const at = steps.findIndex(({ id }) => id === stepId)
    const step = steps[at]
    if (step && !wire.some(({ id }) => id === wireId(index, stepId)))
      next[index]?.steps.splice(Math.min(at, next[index]?.steps.length ?? 0), 0, step)
  }
  const wireIdOf = ({ macroId, stepId }: StepAddress): string =>
    wireId(
      laid.macros.findIndex((one) => one.macroId === macroId),
      stepId,
    )
  const settings = laid.touchUp.settings.flatMap((other) => {
    const dropped = changed.get(wireIdOf(other)) ?? []
    const rest = Object.fromEntries(Object.entries(other.settings).filter(([key]) => !dropped.includes(key)))
    return Object.keys(rest).length > 0 ? [{ ...other, settings: rest }] : []
  })
  const macros = next.filter(({ steps }, i) => JSON.stringify(steps) !== JSON.stringify(laid.macros[i]?.steps))
  const ownStillThere = (step: Step): boolean => wire.some(({ id }) => id === step.id)
  const asOnWire = (step: Step): Step => wire.find(({ id }) => id === step.id) ?? step
  return {
    macros,
    touchUp: {
      ...laid.touchUp,
      settings,
      before: laid.touchUp.before.filter(ownStillThere).map(asOnWire),
      after: laid.touchUp.after.filter(ownStillThere).map(asOnWire),
    },
  }
}
