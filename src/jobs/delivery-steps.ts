import { changeInner, readyStep, type Step } from '@/macros/step'
import { findOperation, sharpenedBy, toLongEdge } from '@/operations'
import type { Delivery } from './delivery'

/** What a delivery itself does to the finished picture, as steps after the macros' own. */
export function deliverySteps({ id, longEdgePx, sharpenPercent }: Pick<Delivery, 'id' | 'longEdgePx' | 'sharpenPercent'>): Step[] {
  const resize = longEdgePx === null ? [] : [readyStep(toLongEdge(longEdgePx), `delivery-${id}-resize`)]
  if (sharpenPercent === 0) return resize
  return [...resize, readyStep(sharpenedBy(sharpenPercent), `delivery-${id}-sharpen`)]
}

/** Steps of macros that a delivery takes: all, or all but stamps, in macros that are played too. */
export const stepsFor = ({ stamps }: Pick<Delivery, 'stamps'>, steps: readonly Step[]): Step[] =>
  stamps ? [...steps] : withoutStamps(steps)

function withoutStamps(steps: readonly Step[]): Step[] {
  return steps.filter(({ operation }) => !findOperation(operation)?.stamp).map((step) => changeInner(step, withoutStamps))
}
