import { findOperation } from '@/operations'
import { keptFileHash } from '@/pixels/kept-file'
import { type Step, withInnerSteps } from './step'

/** The kept files that steps name, by what they say of them, each once. */
export function keptFilesOf(steps: readonly Step[]): string[] {
  const values = withInnerSteps(steps).flatMap((step) =>
    Object.entries(findOperation(step.operation)?.settings ?? {}).flatMap(([key, setting]) => {
      const value = step.settings[key]
      return setting.kind === 'file' && typeof value === 'string' && value !== '' ? [value] : []
    }),
  )
  return [...new Map(values.map((value) => [keptFileHash(value), value])).values()]
}

/** Faces that steps set text in, as assets call them. */
export const facesOf = (steps: readonly Step[]): string[] => [
  ...new Set(withInnerSteps(steps).flatMap((step) => findOperation(step.operation)?.files?.(step.settings) ?? [])),
]
