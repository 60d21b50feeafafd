import type { TouchUp } from '@/jobs/touch-up'
import { readyStep, type Step } from '@/macros/step'
import { findOperation, lighter, stopsOf } from '@/operations'

/*
 * What a key in the proof does to a picture's touch-up. Each takes the touch-up and gives another; one that would change nothing gives
 * the same.
 */

interface MacroSteps {
  readonly macroId: string
  readonly steps: readonly Step[]
}

/** The picture's own step for light, behind all others: what is judged is the result. */
const lightId = 'proof-light'
/** A sixth of a stop. */
export const lightNudgeEv = 1 / 6
const maxLightEv = 4
/** Of the room that the frame has. */
export const frameNudgePercent = 2

const millionth = (value: number): number => Math.round(value * 1e6) / 1e6
const percent = (value: number): number => Math.min(100, Math.max(0, Math.round(value * 10) / 10))

/** How much light a picture got in the proof, in stops. */
export const lightOf = ({ after }: TouchUp): number => stopsOf(after.find(({ id }) => id === lightId)?.settings ?? {})

/** More or less light. Back at nothing, the step goes. */
export function withLight(touchUp: TouchUp, byEv: number): TouchUp {
  const ev = millionth(Math.min(maxLightEv, Math.max(-maxLightEv, lightOf(touchUp) + byEv)))
  const others = touchUp.after.filter(({ id }) => id !== lightId)
  // Sixths add up to whole stops only nearly.
  return { ...touchUp, after: Math.abs(ev) < 1e-3 ? others : [...others, readyStep(lighter(ev), lightId)] }
}

/** The step whose frame is moved: the first that has one and can be placed. */
export function frameStep(macros: readonly MacroSteps[]): { readonly macroId: string; readonly step: Step } | undefined {
  return macros
    .flatMap(({ macroId, steps }) => steps.map((step) => ({ macroId, step })))
    .find(({ step }) => step.enabled && findOperation(step.operation)?.frame !== undefined && 'positionXPercent' in step.settings)
}

/** The frame moved across and down, in per cent of the room it has. A frame that followed the subject stays where it is put from then on. */
export function withFrame(touchUp: TouchUp, macros: readonly MacroSteps[], across: number, down: number): TouchUp {
  const found = frameStep(macros)
  if (!found) return touchUp
  const { macroId, step } = found
  const isIt = (other: TouchUp['settings'][number]): boolean => other.macroId === macroId && other.stepId === step.id
  const own = touchUp.settings.find(isIt)?.settings ?? {}
  const now = { ...step.settings, ...own }
  const settings = {
    ...own,
    position: 'place',
    positionXPercent: percent(Number(now.positionXPercent) + across),
    positionYPercent: percent(Number(now.positionYPercent) + down),
  }
  return { ...touchUp, settings: [...touchUp.settings.filter((other) => !isIt(other)), { macroId, stepId: step.id, settings }] }
}

export const setAside = (touchUp: TouchUp): TouchUp => ({ ...touchUp, setAside: !touchUp.setAside })
export const lookedAt = (touchUp: TouchUp): TouchUp => ({ ...touchUp, lookedAt: true })
