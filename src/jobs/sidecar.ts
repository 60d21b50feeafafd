import { checkMacro, macroLimits } from '@/macros/codec'
import type { Macro } from '@/macros/macro'
import { completeSteps } from '@/macros/step'

/** The name of the file beside a delivered picture that tells how it was made. */
export const sidecarSuffix = '.steps.json'
export const sidecarPath = (picturePath: string): string => `${picturePath}${sidecarSuffix}`

export const sidecarFormat = 'copper-loop/steps'
export const sidecarVersion = 1

type Fields = Readonly<Record<string, unknown>>
const isFields = (value: unknown): value is Fields => typeof value === 'object' && value !== null && !Array.isArray(value)
const textOf = (value: unknown): string => (typeof value === 'string' ? value : '')

/**
 * What such a file says, as a macro: all the steps that its picture went through, one after the other. Undefined for what is no such file.
 * @throws AppError `macroInvalid` where its steps are none
 */
export function macroOfSidecar(text: string): Macro | undefined {
  const read = readJson(text)
  if (!isFields(read) || read.format !== sidecarFormat) return undefined
  const source = isFields(read.source) ? textOf(read.source.name) : ''
  const macros = Array.isArray(read.macros) ? read.macros.filter(isFields).map(({ name }) => textOf(name)) : []
  const name = (macros.filter(Boolean).join(', ') || source || 'Steps').slice(0, macroLimits.nameLength).trim()
  const notes = source ? `As ${source} was made.` : ''
  return checkMacro({ name, notes, tags: [], steps: completeSteps(apart(read.steps)) })
}

/** Steps of several macros may have the same ids: in one macro each has its own. */
function apart(steps: unknown): readonly unknown[] {
  const seen = new Set<unknown>()
  const list = Array.isArray(steps) ? steps.filter(isFields) : []
  return list.map((step, index) => {
    const id = seen.has(step.id) ? `${textOf(step.id).slice(0, 50)}-${index + 1}` : step.id
    seen.add(id)
    return { ...step, id }
  })
}

function readJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}
