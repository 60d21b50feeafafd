import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { Subject } from '@/macros/condition'
import { newStep, type Step } from '@/macros/step'
import type { Settings } from '@/operations'
import type { InterleavedSource } from '@/pixels/picture'
import { testAssets } from './assets'
import { testKernels } from './kernels'

/** Renders steps at full size to 8-bit sRGB without dither, what lies beyond cut off, and tells the size. */
export async function renderSteps(
  source: InterleavedSource,
  steps: readonly Step[],
  dither = false,
  gamut: 'clip' | 'hue' = 'clip',
  subject?: Subject,
) {
  const kernels = await testKernels()
  const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source), assets: testAssets, subject })
  const pixels = renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', gamut, channels: 3, dither })
  return { pixels, size: finalSize(resolved, source.size) }
}

export const renderOne = (source: InterleavedSource, operation: string, settings: Settings) =>
  renderSteps(source, [newStep(operation, 'one', settings)])

export const worstDifference = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let worst = a.length === b.length ? 0 : Number.POSITIVE_INFINITY
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs((a[i] ?? 0) - (b[i] ?? 0)))
  return worst
}
