import { completeDelivery, type Delivery, deliveryForNeed, deliverySchema } from '@/jobs/delivery'
import { besideFolder } from '@/jobs/over-folder'

/* How single pictures were delivered last. It is this browser's, not a loop's. */

const storedUnder = 'copper-loop-last-delivery'
const id = 'one'

/** As the last one was delivered; a web set beside the picture's folder where there was none. @param roots folders that may be used */
export function lastDelivery(folder: string, roots: readonly string[]): Delivery {
  const first = deliveryForNeed(id, 'web', besideFolder(folder, 'web', roots))
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(storedUnder) ?? 'null')
    return stored === null ? first : completeDelivery(deliverySchema.validateSync(completeDelivery(stored as Delivery)))
  } catch {
    return first
  }
}

export function noteDelivery(delivery: Delivery): void {
  // A browser that keeps nothing begins anew each time.
  try {
    localStorage.setItem(storedUnder, JSON.stringify(delivery))
  } catch {}
}
