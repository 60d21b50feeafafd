import { AppError } from '@/base/errors'
import { checkSteps, macroLimits } from './codec'
import type { Change } from './history'
import { completeSteps } from './step'

/** Changes that are made together may hold others no deeper than this. */
const maxDepth = 4
const maxTogether = 2000

const refuse = (reason: string): AppError => new AppError('badRequest', { reason: `a change of the bench ${reason}` })
const isObject = (value: unknown): value is Readonly<Record<string, unknown>> => typeof value === 'object' && value !== null
const isIndex = (value: unknown): boolean =>
  typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= macroLimits.steps
const isName = (value: unknown): boolean => value === null || (typeof value === 'string' && value.length <= macroLimits.nameLength)

function checkStep(value: unknown): void {
  if (!isObject(value) || typeof value.kept !== 'boolean') throw refuse('holds no step')
  const { kept: _, ...step } = value
  if (!isObject(step.settings)) throw refuse('holds a step without settings')
  // One that was made before some of its settings existed is as good as any.
  checkSteps(completeSteps([step]))
}

/**
 * Checks a change of the bench that came from elsewhere.
 * @throws AppError `badRequest`, `macroInvalid`
 */
export function checkChange(change: unknown, depth = maxDepth): Change {
  assertChange(change, depth)
  return change
}

function assertChange(change: unknown, depth: number): asserts change is Change {
  if (!isObject(change)) throw refuse('is no object')
  switch (change.type) {
    case 'insert':
    case 'remove':
      if (!isIndex(change.index)) throw refuse('names no place on the wire')
      checkStep(change.step)
      break
    case 'replace':
      if (!isIndex(change.index)) throw refuse('names no place on the wire')
      checkStep(change.before)
      checkStep(change.after)
      break
    case 'move':
      if (!isIndex(change.from) || !isIndex(change.to)) throw refuse('names no place on the wire')
      break
    case 'recording':
      if (!isName(change.before) || !isName(change.after)) throw refuse('names no recording')
      break
    case 'all':
      if (depth === 0 || !Array.isArray(change.changes) || change.changes.length > maxTogether) throw refuse('holds too many others')
      for (const one of change.changes) assertChange(one, depth - 1)
      break
    default:
      throw refuse('is of no known kind')
  }
}
