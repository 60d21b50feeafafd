import type { Delivery } from '@/core/loop'
import { newStep, type Step } from './step'

/** What a delivery itself does to the finished picture, as steps after the macros' own. */
export function deliverySteps(delivery: Pick<Delivery, 'id' | 'longEdgePx'>): Step[] {
  return delivery.longEdgePx === null
    ? []
    : [newStep('resize', `delivery-${delivery.id}-resize`, { by: 'longEdge', lengthPx: delivery.longEdgePx })]
}
