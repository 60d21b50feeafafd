import type { Kernels } from '@kernels/binding'
import { degreesBetween, invert, matrix3, transform, type Vector3 } from '@/colour/matrix'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import type { Settings } from '@/operations'
import { lightOf } from '@/operations/measure/light'
import { recorded } from './lit-pictures'
import type { LitScene } from './lit-scenes'
import { srgbColour } from './pictures'

const plain: Vector3 = [1, 1, 1]

/** A scene in some light, balanced by itself: how far off the light is that was found, in degrees, and how far off plain light is. */
export function balancedByItself(kernels: Kernels, scene: LitScene, temperatureK: number, settings: Settings = {}) {
  const source = { kind: 'interleaved' as const, ...recorded(scene, { temperatureK }), colour: srgbColour }
  const sampler = createSampler(kernels, source)
  const [step] = resolveSteps([newStep('white-balance', 'w', { by: 'auto', ...settings })], source.size, { sampler })
  const constants = step?.constants ?? {}
  const white = transform(invert(matrix3(constants.matrix as number[])), [1, 1, 1])
  const light = lightOf(1e6 / temperatureK, 0).white
  return { off: degreesBetween(white, light), untouched: degreesBetween(plain, light), isLeft: constants.unsure === true, constants }
}
