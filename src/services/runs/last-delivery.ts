import * as store from '@/store/delivered'
import { type Context, triesFolder } from '../context'

/** How a loop delivered its sources last, by path; tries do not count. */
export const lastDeliveries = ({ db, dataFolder }: Context, loopId: string): ReadonlyMap<string, store.DeliveredSource> =>
  store.lastDeliveries(db, loopId, triesFolder(dataFolder))
