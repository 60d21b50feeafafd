import type { Size } from '@/base/geometry'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import type { Settings } from '@/operations'
import type { InterleavedSource } from '@/pixels/picture'
import { testKernels } from './kernels'
import { srgbColour } from './pictures'

export interface Reduced {
  /** In middle grey, in codes. */
  readonly found: number
  /** RGB codes. */
  readonly pixels: ArrayLike<number>
}

/** Noise reduction of a file of sRGB codes. */
export async function reduceNoise(codes: ArrayLike<number>, size: Size, settings: Settings = {}): Promise<Reduced> {
  const kernels = await testKernels()
  const pixels = Uint8Array.from(codes, (code) => Math.min(255, Math.max(0, Math.round(code))))
  const source: InterleavedSource = { kind: 'interleaved', size, pixels, colour: srgbColour }
  const steps = resolveSteps([newStep('noise-reduction', 'n', settings)], size, { sampler: createSampler(kernels, source) })
  const result = renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
  return { found: Number(steps[0]?.constants.foundLevels), pixels: result }
}

/** Peak signal to noise, in decibels of 8 bits. */
export function decibels(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < b.length; i++) sum += ((a[i] ?? 0) - (b[i] ?? 0)) ** 2
  return 10 * Math.log10(255 ** 2 / (sum / b.length))
}
