import type { Kernels } from '@kernels/binding'
import { areaOf, type Size } from '@/base/geometry'
import type { Effect } from '@/operations'
import { subjectMask } from '@/operations/measure/subject'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { planOpacity, renderOpacity } from './opacity'
import { lastFrame } from './plan'
import { playedOut, type ResolvedStep, sizeAfter } from './resolve'
import type { PlaneSource } from './source'

/** Of all places the share that stands out less than its bright end. */
const brightEnd = 0.97
/** What stands out less than this share of it is background. */
const background = 0.4
/** Where nothing stands out more than this, there is no subject. */
const minSalience = 0.02

const sumOf = (values: Float32Array): number => values.reduce((sum, value) => sum + value, 0)

/** How many times as large resampling makes what is seen. */
function magnified(steps: readonly ResolvedStep[], full: Size): number {
  let [size, times] = [full, 1]
  const add = (effect: Effect): void => {
    if (effect.kind === 'chain') {
      effect.effects.forEach(add)
      return
    }
    const after = sizeAfter(effect, size)
    if (effect.kind === 'resample') times *= areaOf(after) / areaOf(size)
    size = after
  }
  for (const { effect } of playedOut(steps)) add(effect)
  return times
}

const leavesOut = (effect: Effect): boolean =>
  effect.kind === 'crop' || effect.kind === 'warp' || (effect.kind === 'chain' && effect.effects.some(leavesOut))

/**
 * How much of a picture's subject the steps leave outside the finished frame, in per cent. The subject's mask is moved as the steps move
 * the picture; what of it comes out is counted.
 * @param copy gives the source, before all steps; asked only where they leave something out
 * @param full its size at full size
 */
export function subjectCutPercent(kernels: Kernels, copy: () => LinearPicture, full: Size, steps: readonly ResolvedStep[]): number {
  if (!playedOut(steps).some(({ effect }) => leavesOut(effect))) return 0
  const { size, salience } = subjectMask(copy())
  // Measured from its bright end: a glint, which one copy keeps and another smooths away, decides nothing.
  const end = quantile(salience, brightEnd)
  if (end < minSalience) return 0
  const plane = salience.map((value) => Math.min(1, Math.max(0, (value / end - background) / (1 - background))))
  const planes = new Float32Array(3 * plane.length)
  for (let channel = 0; channel < 3; channel++) planes.set(plane, channel * plane.length)
  const mask: PlaneSource = { kind: 'planes', size, fullSize: full, domain: 'linear', planes }
  const plan = planOpacity(mask, steps, 'preview', 0)
  const frame = lastFrame(plan)
  const kept = (sumOf(renderOpacity(kernels, plan)) * areaOf(frame.fullSize)) / areaOf(frame.size) / magnified(steps, full)
  const all = (sumOf(plane) * areaOf(full)) / areaOf(size)
  return Math.round(Math.min(100, Math.max(0, 100 * (1 - kept / all))) * 10) / 10
}
