import * as yup from 'yup'
import { AppError } from '@/base/errors'
import type { Shape } from '@/base/schema'
import { checkSteps, macroLimits } from '@/macros/codec'
import { completeSteps, type Step, stepName } from '@/macros/step'
import { findOperation, kindOf, type Settings, type SettingValue } from '@/operations'
import { settingsSchema } from '@/operations/declare/validation'

/*
 * What one picture of a loop has of its own. A loop says what becomes of all its pictures; a touch-up says what is different for one,
 * and stays with it through every later run.
 */

const id = yup.string().strict(true).required().max(64)
/** Steps of the loop's that one touch-up may speak of. */
export const touchUpLimits = { addresses: 200 } as const

/** A step of one of the loop's macros. */
const addressFields = { macroId: id, stepId: id }
const steps = yup.array(yup.mixed<Step>().required()).max(macroLimits.steps).required()

export const touchUpSchema = yup
  .object({
    /** Other values for some settings of the loop's steps. */
    settings: yup
      .array(yup.object({ ...addressFields, settings: yup.mixed<Settings>().required() }).noUnknown())
      .max(touchUpLimits.addresses)
      .required()
      .default([]),
    /** Steps of its own before the macros, and after them. */
    before: steps.default([]),
    after: steps.default([]),
    /** Steps that are left out for it. */
    without: yup.array(yup.object(addressFields).noUnknown()).max(touchUpLimits.addresses).required().default([]),
    /** It is not delivered. */
    setAside: yup.boolean().strict(true).required().default(false),
    /** Somebody has looked at it and found it good. Changes nothing of the picture. */
    lookedAt: yup.boolean().strict(true).required().default(false),
  })
  .noUnknown()

export type TouchUp = Shape<typeof touchUpSchema>

/** Where a step stands: in which of the loop's macros, and which it is. */
export type StepAddress = TouchUp['without'][number]

export const untouched: TouchUp = touchUpSchema.getDefault()

/** Whether it leaves the picture as the loop makes it. */
export const changesNothing = ({ settings, before, after, without, setAside }: TouchUp): boolean =>
  settings.length === 0 && before.length === 0 && after.length === 0 && without.length === 0 && !setAside

const inOrder = (_: string, value: unknown): unknown =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? Object.fromEntries(Object.entries(value).sort()) : value
const workOf = ({ lookedAt: _, ...work }: TouchUp): string => JSON.stringify(work, inOrder)

/** Whether two make the same of a picture: who looked at it does not matter. */
export const isSameWork = (a: TouchUp, b: TouchUp): boolean => (changesNothing(a) && changesNothing(b)) || workOf(a) === workOf(b)

/** A macro's steps as a loop uses them. */
export interface MacroSteps {
  readonly macroId: string
  readonly steps: readonly Step[]
}

const isAt = (macroId: string, step: Step) => (address: StepAddress) => address.macroId === macroId && address.stepId === step.id

/** All steps of a picture: the macros' with what it has otherwise, and its own before and after them. */
export function touchedSteps(macros: readonly MacroSteps[], touchUp: TouchUp): Step[] {
  const loops = macros.flatMap(({ macroId, steps: own }) =>
    own
      .filter((step) => !touchUp.without.some(isAt(macroId, step)))
      .map((step) => {
        const other = touchUp.settings.find(isAt(macroId, step))
        return other ? { ...step, settings: { ...step.settings, ...other.settings } } : step
      }),
  )
  return [...touchUp.before, ...loops, ...touchUp.after]
}

/** Steps that a touch-up speaks of and that the macros do not have: a newer revision may have lost them. */
export function lostSteps(macros: readonly MacroSteps[], touchUp: TouchUp): StepAddress[] {
  const isThere = (address: StepAddress): boolean =>
    macros.some(({ macroId, steps: own }) => own.some((step) => isAt(macroId, step)(address)))
  return [...touchUp.settings, ...touchUp.without]
    .filter((address) => !isThere(address))
    .map(({ macroId, stepId }) => ({ macroId, stepId }))
}

/**
 * Checks a touch-up that came from elsewhere, and completes its own steps.
 * @param macros the loop's: settings that it names are checked by the operations of their steps, those of lost steps are kept
 * @throws AppError `touchUpInvalid`, `macroInvalid`
 */
export function checkTouchUp(given: unknown, macros: readonly MacroSteps[] = []): TouchUp {
  const touchUp = readShape(given)
  const [before, after] = [touchUp.before, touchUp.after].map((own) => completeSteps(own)) as [Step[], Step[]]
  checkSteps([...before, ...after])
  for (const { macroId, stepId, settings } of touchUp.settings) {
    const step = macros.find((macro) => macro.macroId === macroId)?.steps.find((own) => own.id === stepId)
    const operation = step && findOperation(step.operation)
    if (!step || !operation) continue
    try {
      settingsSchema(operation).validateSync({ ...step.settings, ...settings }, { strict: true })
    } catch (error) {
      throw new AppError('touchUpInvalid', { reason: `${stepName(step)}: ${error instanceof Error ? error.message : String(error)}` })
    }
  }
  return { ...touchUp, before, after }
}

function readShape(given: unknown): TouchUp {
  try {
    return touchUpSchema.validateSync(given, { strict: true })
  } catch (error) {
    throw new AppError('touchUpInvalid', { reason: error instanceof Error ? error.message : String(error) })
  }
}

/** A touch-up in words, a part each: `frame 4 % higher`, `0.33 EV darker`, `without Unsharp mask`, `set aside`. */
export function describeTouchUp(touchUp: TouchUp, macros: readonly MacroSteps[]): string[] {
  const stepAt = ({ macroId, stepId }: StepAddress): Step | undefined =>
    macros.find((macro) => macro.macroId === macroId)?.steps.find((step) => step.id === stepId)
  const own = [...touchUp.before, ...touchUp.after].map((step) => describeOwn(step))
  const others = touchUp.settings.flatMap((other) => {
    const step = stepAt(other)
    return step ? [describeOther(step, other.settings)] : []
  })
  const without = touchUp.without.flatMap((address) => {
    const step = stepAt(address)
    return step ? [`without ${stepName(step)}`] : []
  })
  return [...own, ...others, ...without, ...(touchUp.setAside ? ['set aside'] : [])]
}

const describeOwn = (step: Step): string => {
  const operation = findOperation(step.operation)
  const change = operation?.changeInWords?.(step.settings, undefined)
  if (change) return change
  return `${stepName(step)} ${operation ? operation.describe(step.settings) : ''}`.trim()
}

/** Settings that differ, each by its label and its value. */
function describeOther(step: Step, settings: Settings): string {
  const change = findOperation(step.operation)?.changeInWords?.({ ...step.settings, ...settings }, step.settings)
  if (change) return change
  const declared = findOperation(step.operation)?.settings ?? {}
  const parts = Object.entries(settings).flatMap(([key, value]) => {
    const setting = declared[key]
    return setting ? [`${setting.label.toLowerCase()} ${kindOf(setting).valueInWords?.(setting, value) ?? plain(value)}`] : []
  })
  return `${stepName(step)}: ${parts.join(', ')}`
}

const plain = (value: SettingValue): string => (typeof value === 'object' ? 'other' : String(value))
