import { changeInner, newStep, type Step } from '@/macros/step'
import type { Delivery } from './delivery'

/** What a delivery itself does to the finished picture, as steps after the macros' own. */
export function deliverySteps({ id, longEdgePx, sharpenPercent }: Pick<Delivery, 'id' | 'longEdgePx' | 'sharpenPercent'>): Step[] {
  const resize = longEdgePx === null ? [] : [newStep('resize', `delivery-${id}-resize`, { by: 'longEdge', lengthPx: longEdgePx })]
  if (sharpenPercent === 0) return resize
  // At its full strength what a careful retoucher gives a picture on a screen (common practice), with the halo limit of the default.
  const sharpen = newStep('unsharp-mask', `delivery-${id}-sharpen`, {
    amountPercent: sharpenPercent * 2,
    radiusPx: 0.6,
    thresholdLevels: 2,
  })
  return [...resize, sharpen]
}

/** Steps of macros that a delivery takes: all, or all but stamps, in macros that are played too. */
export const stepsFor = ({ stamps }: Pick<Delivery, 'stamps'>, steps: readonly Step[]): Step[] =>
  stamps ? [...steps] : withoutStamps(steps)

function withoutStamps(steps: readonly Step[]): Step[] {
  return steps.filter(({ operation }) => !operation.startsWith('stamp-')).map((step) => changeInner(step, withoutStamps))
}
