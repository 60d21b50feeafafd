import { AppError } from '@/base/errors'
import type { Loop } from '@/jobs/loop'
import { nextStart } from '@/jobs/schedule'
import * as store from '@/store/loops'
import { forgetStart, listStarts } from '@/store/standing-starts'
import type { Context } from './context'

export const allLoops = ({ db }: Context): Loop[] => store.listLoops(db)

/** @throws AppError `notFound` */
export function loopById({ db }: Context, id: string): Loop {
  const loop = store.findLoop(db, id)
  if (!loop) throw new AppError('notFound', { what: 'The loop' })
  return loop
}

/** Stores a loop, new or changed. @throws AppError `loopMoved` when another window was faster */
export function saveLoop(context: Context, loop: Loop, changedBy: string | null = null): Loop {
  const before = store.findLoop(context.db, loop.id)
  if (!store.saveLoop(context.db, loop, Date.now(), changedBy)) throw new AppError('loopMoved', { loop: before?.name ?? loop.name })
  if (before && JSON.stringify(before.start) !== JSON.stringify(loop.start)) forgetStart(context.db, loop.id)
  return loopById(context, loop.id)
}

export function binLoop(context: Context, id: string): void {
  loopById(context, id)
  store.binLoop(context.db, id, Date.now())
  forgetStart(context.db, id)
}

/** Takes a loop back out of the bin; one that is not there stays as it is. @throws AppError `notFound` */
export function restoreLoop(context: Context, id: string): Loop {
  store.binLoop(context.db, id, null)
  return loopById(context, id)
}

/** How it stands with a loop that starts by itself. */
export interface StandingStart {
  readonly loopId: string
  /** The next time on the clock, ms since 1970; null for one that waits for pictures. */
  readonly nextAt: number | null
  /** Why it could not start, in words. */
  readonly problem: string | null
}

export function standingStarts({ db }: Context, now: number = Date.now()): StandingStart[] {
  const known = listStarts(db)
  return store
    .listLoops(db)
    .filter(({ start }) => start.when !== 'byHand')
    .map(({ id, start }) => ({
      loopId: id,
      nextAt: start.when === 'atTimes' ? (nextStart(start, now) ?? null) : null,
      problem: known.find(({ loopId }) => loopId === id)?.problem ?? null,
    }))
}
