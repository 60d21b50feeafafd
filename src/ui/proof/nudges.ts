import type { Size } from '@/base/geometry'
import { clamp, tenth } from '@/base/scale'
import type { StepAddress, TouchUp } from '@/jobs/touch-up'
import { readyStep, type Step } from '@/macros/step'
import {
  type FrameHandles,
  findOperation,
  type LevelHandles,
  lighter,
  miredOf,
  type Operation,
  type ReadyMade,
  relit,
  type Settings,
  type StampHandles,
  type Standing,
  stopsOf,
  turnedBy,
  warmer,
} from '@/operations'
import type { Shift } from '@/pixels/likeness'

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

const askedOf = ({ after }: TouchUp, { id, read }: NudgedStep): number => read(after.find((step) => step.id === id)?.settings ?? {})

/** Back at nothing, the step goes. */
function nudged(touchUp: TouchUp, step: NudgedStep, by: number): TouchUp {
  const value = millionth(clamp(askedOf(touchUp, step) + by, -step.max, step.max))
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

/** A step of the loop's that a nudge changes the settings of. */
interface Handled<H> extends StepAddress {
  readonly step: Step
  readonly handles: H
}

/** The first step that is on and has such handles, and for which they are good. */
function handled<K extends 'frame' | 'level' | 'stamp'>(
  macros: readonly MacroSteps[],
  which: K,
  isGood: (handles: NonNullable<Operation[K]>, settings: Settings) => boolean = () => true,
): Handled<NonNullable<Operation[K]>> | undefined {
  for (const { macroId, steps } of macros)
    for (const step of steps) {
      const handles = step.enabled ? findOperation(step.operation)?.[which] : undefined
      if (handles && isGood(handles, step.settings)) return { macroId, stepId: step.id, step, handles }
    }
  return undefined
}

/** The step whose frame is moved. */
export const framedStep = (macros: readonly MacroSteps[]): Handled<FrameHandles> | undefined => handled(macros, 'frame')
const levelledStep = (macros: readonly MacroSteps[]): Handled<LevelHandles> | undefined => handled(macros, 'level')

/** The mark that is laid elsewhere. */
export const stampedStep = (macros: readonly MacroSteps[]): Handled<StampHandles> | undefined =>
  handled(macros, 'stamp', (stamp, settings) => stamp.isPlaced(settings))

/** Ids of the steps that are moved, sized and turned. */
export const handledIds = (macros: readonly MacroSteps[]): readonly string[] =>
  [framedStep(macros), levelledStep(macros), stampedStep(macros)].flatMap((found) => (found ? [found.stepId] : []))

/** How steps stand on the picture in hand, where that is known yet. */
export type StandingSteps = readonly (Standing & { readonly stepId: string })[]
const standingOf = (standing: StandingSteps, { stepId }: StepAddress): Standing | undefined =>
  standing.find((step) => step.stepId === stepId)

/** The frame moved across and down, in per cent of the room it has. */
export function withFrame(
  touchUp: TouchUp,
  macros: readonly MacroSteps[],
  [across, down]: readonly [number, number],
  standing: StandingSteps = [],
): TouchUp {
  const framed = framedStep(macros)
  return framed
    ? withSettings(touchUp, framed, framed.handles.moved(settingsNow(touchUp, framed), across, down, standingOf(standing, framed)))
    : touchUp
}

/** A larger (above 0) or smaller frame, in per cent of the largest that fits. */
export function withFrameSize(touchUp: TouchUp, macros: readonly MacroSteps[], by: number): TouchUp {
  const framed = framedStep(macros)
  return framed ? withSettings(touchUp, framed, framed.handles.resized(settingsNow(touchUp, framed), by)) : touchUp
}

/** The frame's size in per cent of the largest that fits, where it has one. */
export function frameSizeOf(touchUp: TouchUp, macros: readonly MacroSteps[]): number | undefined {
  const framed = framedStep(macros)
  return framed?.handles.size(settingsNow(touchUp, framed))
}

const levelId = 'proof-level'
/** A tenth of a degree: as fine as a horizon is judged by eye (common practice). */
export const levelNudgeDegrees = 0.1
const maxLevelDegrees = 45

/** By how many degrees the picture is turned clockwise; a macro that levels by what it finds begins there. */
export function levelOf(touchUp: TouchUp, macros: readonly MacroSteps[], standing: StandingSteps = []): number {
  const levelled = levelledStep(macros)
  if (levelled) return levelled.handles.angle(settingsNow(touchUp, levelled), standingOf(standing, levelled))
  return Number(touchUp.before.find(({ id }) => id === levelId)?.settings.angleDegrees ?? 0)
}

/** Turned clockwise (above 0) or back. */
export const withLevel = (touchUp: TouchUp, macros: readonly MacroSteps[], by: number, standing: StandingSteps = []): TouchUp =>
  withLevelAt(touchUp, macros, levelOf(touchUp, macros, standing) + by)

/** Turned by so many degrees: by the macro's own step where it has one, else by one before all of them. */
export function withLevelAt(touchUp: TouchUp, macros: readonly MacroSteps[], angleDegrees: number): TouchUp {
  const degrees = tenth(clamp(angleDegrees, -maxLevelDegrees, maxLevelDegrees))
  const levelled = levelledStep(macros)
  if (levelled) return withSettings(touchUp, levelled, levelled.handles.turned(settingsNow(touchUp, levelled), degrees))
  const others = touchUp.before.filter(({ id }) => id !== levelId)
  return { ...touchUp, before: degrees === 0 ? others : [...others, readyStep(turnedBy(degrees), levelId)] }
}

/** Corners in the order of a clock. */
const corners = [
  [0, 0],
  [100, 0],
  [100, 100],
  [0, 100],
] as const

/** The stamp laid into the corner that comes next, clockwise; from elsewhere, into the first. */
export function withStampOn(touchUp: TouchUp, macros: readonly MacroSteps[]): TouchUp {
  const stamped = stampedStep(macros)
  if (!stamped) return touchUp
  const [across, down] = stamped.handles.place(settingsNow(touchUp, stamped))
  const now = corners.findIndex(([x, y]) => x === across && y === down)
  return withStampAt(touchUp, macros, corners[(now + 1) % corners.length] ?? corners[0])
}

/** The stamp laid elsewhere, in per cent of the room it has. */
export function withStampAt(touchUp: TouchUp, macros: readonly MacroSteps[], [across, down]: readonly [number, number]): TouchUp {
  const stamped = stampedStep(macros)
  return stamped ? withSettings(touchUp, stamped, stamped.handles.laid(settingsNow(touchUp, stamped), across, down)) : touchUp
}

/** The stamp pulled along, by full-size pixels of the picture that it is laid on. */
export function withStampPulled(
  touchUp: TouchUp,
  macros: readonly MacroSteps[],
  by: { readonly dx: number; readonly dy: number },
  standing: StandingSteps,
): TouchUp {
  const stamped = stampedStep(macros)
  const laid = stamped && stampBox(macros, standing)
  if (!stamped || !laid) return touchUp
  return withSettings(touchUp, stamped, stamped.handles.pulled(settingsNow(touchUp, stamped), laid.box, laid.picture, by))
}

/** Where the stamp lies: x, y, width, height in full-size pixels of the picture that it is laid on; undefined where none does. */
export function stampBox(
  macros: readonly MacroSteps[],
  standing: StandingSteps,
): { readonly box: readonly number[]; readonly picture: Size } | undefined {
  const stamped = stampedStep(macros)
  const stands = stamped && standingOf(standing, stamped)
  const box = stands?.constants.place
  if (!stands || !Array.isArray(box) || box.length !== 4) return undefined
  return { box: box.map(Number), picture: stands.sizeBefore }
}

const isOf = ({ macroId, stepId }: StepAddress, other: StepAddress): boolean => other.macroId === macroId && other.stepId === stepId
const settingsNow = (touchUp: TouchUp, found: Handled<unknown>): Settings => ({
  ...found.step.settings,
  ...touchUp.settings.find((other) => isOf(found, other))?.settings,
})

/** Only what is otherwise than in the macro is kept: the rest follows it. */
function withSettings(touchUp: TouchUp, { macroId, stepId, step }: Handled<unknown>, next: Settings): TouchUp {
  const own = Object.fromEntries(Object.entries(next).filter(([key, value]) => value !== step.settings[key]))
  const others = touchUp.settings.filter((other) => !isOf({ macroId, stepId }, other))
  return { ...touchUp, settings: Object.keys(own).length > 0 ? [...others, { macroId, stepId, settings: own }] : others }
}

/** What brings a picture among its neighbours is of its own kind: found anew, it takes the place of what was found before. */
const relitIds = ['proof-relit-light', 'proof-relit-colour'] as const
const isRelit = ({ id }: Step): boolean => relitIds.some((own) => own === id)

export const withoutRelit = (touchUp: TouchUp): TouchUp => ({ ...touchUp, before: touchUp.before.filter((step) => !isRelit(step)) })

/** Steps that give a picture more light and another colour of it, before all others. */
export const relitSteps = ({ ev, red, blue }: Shift): Step[] => [
  ...relit({ ev, red: 0, blue: 0 }).map((made) => readyStep(made, relitIds[0])),
  ...relit({ ev: 0, red, blue }).map((made) => readyStep(made, relitIds[1])),
]

/** Lit otherwise, so that it lies among its neighbours. */
export function withRelit(touchUp: TouchUp, shift: Shift): TouchUp {
  const rest = withoutRelit(touchUp)
  return { ...rest, before: [...relitSteps(shift), ...rest.before] }
}

/** What of a touch-up can be given to other pictures by itself. */
export const touchUpParts = ['all', 'light', 'frame'] as const
export type TouchUpPart = (typeof touchUpParts)[number]

const isLight = ({ id }: Step): boolean => id === light.id || id === warmth.id || relitIds.some((own) => own === id)

/** Gives a picture what another has of its own: all of it, light and colour, or frame and level. The rest stays as it was. */
export function withPartOf(touchUp: TouchUp, from: TouchUp, part: TouchUpPart, macros: readonly MacroSteps[]): TouchUp {
  const { lookedAt } = touchUp
  if (part === 'all') return { ...from, lookedAt }
  if (part === 'light') {
    const joined = (own: readonly Step[], other: readonly Step[]): Step[] => [
      ...other.filter(isLight),
      ...own.filter((step) => !isLight(step)),
    ]
    return { ...touchUp, before: joined(touchUp.before, from.before), after: joined(touchUp.after, from.after) }
  }
  const placed = [framedStep(macros), levelledStep(macros), stampedStep(macros)].filter((step) => step !== undefined)
  const isPlaced = (address: StepAddress): boolean => placed.some((step) => isOf(step, address))
  return {
    ...touchUp,
    settings: [...touchUp.settings.filter((other) => !isPlaced(other)), ...from.settings.filter(isPlaced)],
    before: [...touchUp.before.filter(({ id }) => id !== levelId), ...from.before.filter(({ id }) => id === levelId)],
  }
}

export const setAside = (touchUp: TouchUp): TouchUp => ({ ...touchUp, setAside: !touchUp.setAside })
export const lookedAt = (touchUp: TouchUp): TouchUp => ({ ...touchUp, lookedAt: true })
