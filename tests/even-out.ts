import type { Kernels } from '@kernels/binding'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { fillSetSteps } from '@/macros/set-steps'
import { newStep, type Step } from '@/macros/step'
import { findOperation } from '@/operations'
import { recorded } from './lit-pictures'
import type { LitScene } from './lit-scenes'
import { srgbColour } from './pictures'

/** One scene, taken five times: in other light, and longer or shorter. */
export const fiveTakes = [
  { temperatureK: 6500, ev: 0 },
  { temperatureK: 3400, ev: -0.8 },
  { temperatureK: 4500, ev: 0.6 },
  { temperatureK: 8000, ev: -0.4 },
  { temperatureK: 5500, ev: 1 },
] as const

/** Of so many pixels one is compared. */
const stride = 17

/**
 * How far apart the takes of a scene come out at most, as mean ΔE00 of their pixels, each pair compared.
 */
export function takesApart(
  kernels: Kernels,
  scene: LitScene,
  steps: readonly Step[],
  takes: readonly { temperatureK: number; ev: number }[] = fiveTakes,
): number {
  const sources = takes.map((take) => ({ kind: 'interleaved' as const, ...recorded(scene, take), colour: srgbColour }))
  const samplers = sources.map((source) => createSampler(kernels, source))
  const measured = new Map<string, readonly number[]>()
  const fill = () => fillSetSteps([{ steps }], (key) => measured.get(key))
  for (let { waiting } = fill(); waiting; { waiting } = fill()) {
    const { key, before, operation: id } = waiting
    const operation = findOperation(id)
    const each = sources.map((source, i) => {
      const sampler = samplers[i]
      return (sampler && operation?.measure?.(sampler.copy(resolveSteps(before, source.size, { sampler })))) ?? []
    })
    measured.set(key, operation?.ofSet?.together(each) ?? [])
  }
  const filled = fill().macros[0]?.steps ?? []
  const pictures = sources.map((source, i) => {
    const resolved = resolveSteps(filled, source.size, { sampler: samplers[i] })
    return renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: false })
  })
  const labOf = (pixels: Uint8ClampedArray, i: number) => srgb8ToLab([pixels[i] ?? 0, pixels[i + 1] ?? 0, pixels[i + 2] ?? 0])
  let worst = 0
  for (const [a, one] of pictures.entries())
    for (const other of pictures.slice(0, a)) {
      let [sum, count] = [0, 0]
      for (let i = 0; i + 2 < one.length; i += 3 * stride) {
        sum += deltaE00(labOf(one, i), labOf(other, i))
        count++
      }
      worst = Math.max(worst, sum / count)
    }
  return worst
}

/** By itself: the step as it is laid. */
export const evenedOut = [newStep('even-out', 'e')]
