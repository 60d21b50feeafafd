import type { Kernels } from '@kernels/binding'
import { strideOf } from '@kernels/planes'
import { expandRect, type Rect, wholeRect } from '@/base/geometry'
import { floatAt } from '@/base/numbers'
import type { Limit } from '@/macros/limit'
import { gather, newWalk } from './evaluate'
import { limitReach, paintLimits } from './limits'
import { lastFrame, type Plan, scaleOf } from './plan'

/** Rows painted at a time. */
const stripRows = 256

/**
 * Where a step with these limits applies, drawn on the picture before it by the kernels that a run draws it with.
 * @returns one byte a pixel of the rectangle: 255 is all of the step.
 */
export function renderLimit(
  kernels: Kernels,
  plan: Plan,
  limit: readonly Limit[],
  rect: Rect = wholeRect(lastFrame(plan).size),
): Uint8Array<ArrayBuffer> {
  const frame = lastFrame(plan)
  const scale = scaleOf(frame)
  const reach = limitReach(limit, scale)
  const walk = newWalk(kernels, plan)
  const bytes = new Uint8Array(rect.width * rect.height)
  const stride = strideOf(rect.width)
  for (let y = 0; y < rect.height; y += stripRows)
    kernels.heap.scope(() => {
      const strip = { ...rect, y: rect.y + y, height: Math.min(stripRows, rect.height - y) }
      const input = gather(walk, plan.stages.length - 1, expandRect(strip, reach), 2 * reach)
      const mask = paintLimits({ kernels, input, domain: frame.domain, reach, ...strip, scale, frame: frame.size }, limit)
      const values = kernels.heap.f32(mask, stride * strip.height)
      for (let row = 0; row < strip.height; row++)
        for (let x = 0; x < rect.width; x++) bytes[(y + row) * rect.width + x] = Math.round(floatAt(values, row * stride + x) * 255)
    })
  return bytes
}
