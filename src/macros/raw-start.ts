import { findOperation } from '@/operations'
import type { PictureFacts } from '@/pixels/picture'
import type { BenchDocument, Change } from './history'
import { newStep, type Step } from './step'

/*
 * Raw files begin as light on a sensor. A step of the catalogue makes a picture of it: laid first on the wire, where a raw file is worked on.
 */

const baseCurve = 'base-curve'

/** Whether a step makes a picture of a raw file. */
export const isBaseCurve = ({ operation }: Pick<Step, 'operation'>): boolean => operation === baseCurve

export const isRaw = (facts: Pick<PictureFacts, 'format'> | null | undefined): boolean => facts?.format === 'raw'

/** Whether some of the steps makes a picture of a raw file. */
export const makesPictures = (steps: readonly Step[]): boolean => steps.some((step) => step.enabled && isBaseCurve(step))

/** Steps of a picture that no macro is laid on: a raw file becomes a picture all the same. */
export const startedRaw = (steps: readonly Step[], macros: readonly unknown[]): Step[] =>
  macros.length === 0 && !steps.some(isBaseCurve) ? [newStep(baseCurve, baseCurve), ...steps] : [...steps]

/** Lays the step before all others, if it is not there. */
export function layBaseCurve({ steps, recording }: BenchDocument, id: string): Change | undefined {
  if (steps.some(isBaseCurve)) return undefined
  return { type: 'insert', index: 0, step: { ...newStep(baseCurve, id), kept: recording !== null } }
}

/** Where a new step goes on the wire of a raw file: what means the light on the sensor, before what makes a picture of it. */
export function placeOnRaw({ steps }: BenchDocument, operation: string, index: number): number {
  const base = steps.findIndex(isBaseCurve)
  return base >= 0 && findOperation(operation)?.onSensor ? Math.min(index, base) : index
}
