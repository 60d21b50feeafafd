import { type DeliveredSource, deliveriesOf } from '@/store/runs'
import { type Context, triesFolder } from '../context'

/** How a loop delivered a source last; tries do not count. */
export function lastDelivery({ db, dataFolder }: Context, loopId: string, sourcePath: string): DeliveredSource | undefined {
  const tries = triesFolder(dataFolder)
  return deliveriesOf(db, loopId, sourcePath).find(({ results }) => !results.some(({ path }) => path.startsWith(tries)))
}
