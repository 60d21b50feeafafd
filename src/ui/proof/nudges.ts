import type { TouchUp } from '@/jobs/touch-up'
import { readyStep, type Step } from '@/macros/step'
import { type FrameHandles, findOperation, lighter, miredOf, type ReadyMade, type Settings, stopsOf, warmer } from '@/operations'

/*
 * What a key in the proof does to a picture's touch-up. Each takes the touch-up and gives another; one that would change nothing gives
 * the same.
 */

interface MacroSteps {
  readonly macroId: string
  readonly steps: readonly Step[]
}

/** A step that one kind of nudge adds up in, behind all the macros': what is judged is the result. Values in the unit that is said. */
interface NudgedStep {
  readonly id: string
  readonly max: number
  make(value: number): ReadyMade
  read(settings: Settings): number
}

/** In stops. */
const light: NudgedStep = { id: 'proof-light', max: 4, make: lighter, read: stopsOf }
/** In mired. */
const warmth: NudgedStep = { id: 'proof-warmth', max: 100, make: warmer, read: miredOf }

/** A sixth of a stop. */
export const lightNudgeEv = 1 / 6
/** About the least that is seen side by side (common practice). */
export const warmthNudgeMired = 5
/** Of the room that the frame has, and of its size. */
export const frameNudgePercent = 2

const millionth = (value: number): number => Math.round(value * 1e6) / 1e6
const within = (value: number, min: number, max: number): number => Math.min(max, Math.max(min, value))

const askedOf = ({ after }: TouchUp, { id, read }: NudgedStep): number => read(after.find((step) => step.id === id)?.settings ?? {})

/** Back at nothing, the step goes. */
function nudged(touchUp: TouchUp, step: NudgedStep, by: number): TouchUp {
  const value = millionth(within(askedOf(touchUp, step) + by, -step.max, step.max))
  const others = touchUp.after.filter(({ id }) => id !== step.id)
  // Sixths add up to whole stops only nearly.
  return { ...touchUp, after: Math.abs(value) < 1e-3 ? others : [...others, readyStep(step.make(value), step.id)] }
}

/** How much light a picture got in the proof, in stops. */
export const lightOf = (touchUp: TouchUp): number => askedOf(touchUp, light)
/** More or less light. */
export const withLight = (touchUp: TouchUp, byEv: number): TouchUp => nudged(touchUp, light, byEv)
/** How much warmer a picture was made in the proof, in mired. */
export const warmthOf = (touchUp: TouchUp): number => askedOf(touchUp, warmth)
/** Warmer (above 0) or cooler. */
export const withWarmth = (touchUp: TouchUp, byMired: number): TouchUp => nudged(touchUp, warmth, byMired)

interface FramedStep {
  readonly macroId: string
  readonly step: Step
  readonly frame: FrameHandles
}

/** The step whose frame is moved: the first that has one. */
export function framedStep(macros: readonly MacroSteps[]): FramedStep | undefined {
  for (const { macroId, steps } of macros)
    for (const step of steps) {
      const frame = step.enabled ? findOperation(step.operation)?.frame : undefined
      if (frame) return { macroId, step, frame }
    }
  return undefined
}

/** The frame moved across and down, in per cent of the room it has. */
export const withFrame = (touchUp: TouchUp, macros: readonly MacroSteps[], across: number, down: number): TouchUp =>
  withFrameSettings(touchUp, macros, (frame, now) => frame.moved(now, across, down))

/** A larger (above 0) or smaller frame, in per cent of the largest that fits. */
export const withFrameSize = (touchUp: TouchUp, macros: readonly MacroSteps[], by: number): TouchUp =>
  withFrameSettings(touchUp, macros, (frame, now) => frame.resized(now, by))

/** The frame's size in per cent of the largest that fits, where it has one. */
export function frameSizeOf(touchUp: TouchUp, macros: readonly MacroSteps[]): number | undefined {
  const found = framedStep(macros)
  return found?.frame.size(settingsNow(touchUp, found))
}

const isOf = ({ macroId, step }: FramedStep, other: TouchUp['settings'][number]): boolean =>
  other.macroId === macroId && other.stepId === step.id
const settingsNow = (touchUp: TouchUp, found: FramedStep): Settings => ({
  ...found.step.settings,
  ...touchUp.settings.find((other) => isOf(found, other))?.settings,
})

/** Only what is otherwise than in the macro is kept: the rest follows it. */
function withFrameSettings(
  touchUp: TouchUp,
  macros: readonly MacroSteps[],
  change: (frame: FrameHandles, now: Settings) => Settings,
): TouchUp {
  const found = framedStep(macros)
  if (!found) return touchUp
  const { macroId, step, frame } = found
  const next = change(frame, settingsNow(touchUp, found))
  const own = Object.fromEntries(Object.entries(next).filter(([key, value]) => value !== step.settings[key]))
  const others = touchUp.settings.filter((other) => !isOf(found, other))
  return { ...touchUp, settings: Object.keys(own).length > 0 ? [...others, { macroId, stepId: step.id, settings: own }] : others }
}

export const setAside = (touchUp: TouchUp): TouchUp => ({ ...touchUp, setAside: !touchUp.setAside })
export const lookedAt = (touchUp: TouchUp): TouchUp => ({ ...touchUp, lookedAt: true })
