import type { Rect, Size } from '@/base/geometry'
import type { ResolvedStep } from '@/engine/resolve'

const movesPixels: ReadonlySet<ResolvedStep['effect']['kind']> = new Set(['crop', 'turn', 'resample', 'warp', 'pad'])

/** Whether a limit decides where an effect applies: what moves pixels is done everywhere or not at all. */
export const takesLimit = (effect: ResolvedStep['effect']): boolean =>
  effect.kind === 'chain' ? effect.effects.some(takesLimit) : !movesPixels.has(effect.kind)

/** The part of the picture before a step that a part of the picture after it came from, where the step only changes the size. */
export function partBefore(rect: Rect, after: Size, before: Size): Rect {
  const [across, down] = [before.width / after.width, before.height / after.height]
  const [x, y] = [Math.floor(rect.x * across), Math.floor(rect.y * down)]
  const [right, bottom] = [Math.ceil((rect.x + rect.width) * across), Math.ceil((rect.y + rect.height) * down)]
  return { x, y, width: Math.min(right, before.width) - x, height: Math.min(bottom, before.height) - y }
}
