import {
  defaultSettings,
  findOperation,
  kindOf,
  type PlayedMacro,
  type ReadyMade,
  type Setting,
  type Settings,
  type SettingValue,
} from '@/operations'
import { type Condition, describeCondition } from './condition'
import { describeLimits, type Limit } from './limit'

/** One recorded edit. Plain data; applying it cannot throw halfway. */
export interface Step {
  /** Unique within its macro. */
  readonly id: string
  /** Id of an operation in the catalogue, or of one that only a newer version knows. */
  readonly operation: string
  readonly settings: Settings
  readonly enabled: boolean
  /** 0–100: how much of the step's result is mixed with its input. Geometry is all or nothing. */
  readonly strengthPercent: number
  readonly blend: Blend
  /** For which pictures it applies; none: for all. */
  readonly when: readonly Condition[]
  /** Where in the picture it applies, in the order they join; none: everywhere. */
  readonly limit?: readonly Limit[]
  /** What somebody wanted to remember about it. */
  readonly note?: string
  /** Settings that are asked for once before a run. */
  readonly open?: readonly OpenSetting[]
}

/** A setting left open: answered once before a run starts. The step's own value is the default, so that no run ever waits. */
export interface OpenSetting {
  /** Key of the operation's setting. */
  readonly setting: string
  readonly question: string
}

/** Whether a setting can be asked for before a run: all that a person chooses can, and nothing that is taken from a picture. */
export const canBeAsked = (setting: Setting | undefined): boolean => setting !== undefined && kindOf(setting).asked !== undefined

/** What of a step's result is taken: all of it, or its lightness or its colour with the other kept from before. */
export const blends = ['normal', 'lightness', 'colour'] as const
export type Blend = (typeof blends)[number]

/** A step with the operation's defaults. */
export function newStep(operationId: string, id: string, settings: Settings = {}): Step {
  const operation = findOperation(operationId)
  const defaults = operation ? defaultSettings(operation.settings) : {}
  return {
    id,
    operation: operationId,
    settings: { ...defaults, ...settings },
    enabled: true,
    strengthPercent: 100,
    blend: 'normal',
    when: [],
  }
}

/** A step that the application makes by itself. */
export const readyStep = ({ operation, settings }: ReadyMade, id: string): Step => newStep(operation, id, settings)

/**
 * A step as it was stored or written by hand, perhaps before some of its operation's settings existed or while they were others: those
 * it has are brought to what they are now, those it lacks take their defaults.
 */
export function completeStep(step: Step): Step {
  const operation = findOperation(step.operation)
  if (!operation) return step
  const settings = { ...defaultSettings(operation.settings), ...(operation.upgrade?.(step.settings) ?? step.settings) }
  return changeInner({ ...step, operation: operation.id, settings }, completeSteps)
}

const hasShape = (step: unknown): step is Step =>
  typeof step === 'object' && step !== null && 'settings' in step && typeof step.settings === 'object' && step.settings !== null

/** Steps as they were stored or written by hand, each completed. What is no step stays as it is: checking it comes after. */
export const completeSteps = (steps: readonly unknown[]): Step[] =>
  (steps as readonly Step[]).map((step) => (hasShape(step) ? completeStep(step) : step))

const isPlayed = (value: SettingValue): value is PlayedMacro => typeof value === 'object' && 'steps' in value

/** The steps of a macro that is played. Their shape is this room's business: the catalogue holds them unseen. */
export const stepsOf = ({ steps }: PlayedMacro): readonly Step[] => steps as readonly unknown[] as readonly Step[]

/** A step with the steps changed that it stands for, if it stands for any. */
export function changeInner(step: Step, change: (steps: readonly Step[]) => readonly Step[]): Step {
  return findOperation(step.operation)?.plays ? { ...step, settings: mapPlayed(step.settings, change) } : step
}

const mapPlayed = (settings: Settings, change: (steps: readonly Step[]) => readonly Step[]): Settings =>
  Object.fromEntries(
    Object.entries(settings).map(([key, value]) => [
      key,
      isPlayed(value) ? { ...value, steps: change(stepsOf(value)).map((step) => ({ ...step })) } : value,
    ]),
  )

/** The steps that a step stands for; none for most. They have passed the macro format's checks. */
export function innerSteps(step: Step): readonly Step[] {
  const played = findOperation(step.operation)?.plays?.(step.settings)
  return played ? stepsOf(played) : []
}

/** All steps, with those that others stand for behind them. */
export const withInnerSteps = (steps: readonly Step[]): Step[] => steps.flatMap((step) => [step, ...withInnerSteps(innerSteps(step))])

/** `Exposure`, or the bare id of an operation that this version does not know. */
export const stepName = (step: Step): string => findOperation(step.operation)?.name ?? step.operation

/** The setting in words: `+0.35 EV`. */
export function stepSetting(step: Step): string {
  const operation = findOperation(step.operation)
  if (!operation) return 'needs a newer version'
  const parts = [operation.describe(step.settings)]
  if (step.blend !== 'normal') parts.push(`${step.blend} only`)
  if (step.limit?.length) parts.push(`on ${describeLimits(step.limit)}`)
  if (step.strengthPercent < 100) parts.push(`at ${step.strengthPercent} %`)
  if (step.when.length > 0) parts.push(`only for ${step.when.map(describeCondition).join(' and ')}`)
  for (const { question } of step.open ?? []) parts.push(`asks “${question}”`)
  return parts.join(', ')
}

/** A macro read as plain numbered sentences. */
export function readSteps(steps: readonly Step[]): string {
  return readNumbered(steps, '').join('\n')
}

function readNumbered(steps: readonly Step[], before: string): string[] {
  return steps.flatMap((step, index) => {
    const number = `${before}${index + 1}.`
    return [`${number} ${stepName(step)} ${stepSetting(step)}${step.enabled ? '' : ' (off)'}`, ...readNumbered(innerSteps(step), number)]
  })
}
