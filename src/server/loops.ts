import { AppError } from '@/core/errors'
import type { Loop } from '@/core/loop'
import * as store from '@/db/loops'
import type { Context } from './context'

export const allLoops = ({ db }: Context): Loop[] => store.listLoops(db)

/** @throws AppError `notFound` */
export function loopById({ db }: Context, id: string): Loop {
  const loop = store.findLoop(db, id)
  if (!loop) throw new AppError('notFound', { what: 'The loop' })
  return loop
}

export function saveLoop(context: Context, loop: Loop): Loop {
  store.saveLoop(context.db, loop, Date.now())
  return loopById(context, loop.id)
}

export function binLoop(context: Context, id: string): void {
  loopById(context, id)
  store.binLoop(context.db, id, Date.now())
}
