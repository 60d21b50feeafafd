import * as store from '@/store/runs'
import type { Context } from '../context'
import { type RunSummary, runSummary } from './summary'

/** Ends a run; pictures in work are finished, the rest is left out. */
export function stopRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'stop', Date.now())
  return runSummary(context, id)
}

/** Holds a run until somebody lets it go on; pictures in work are finished. */
export function pauseRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'pause', Date.now())
  return runSummary(context, id)
}

/** Takes a paused run up again. */
export function goOnWithRun(context: Context, id: string): RunSummary {
  store.advanceRun(context.db, id, 'goOn', Date.now())
  return runSummary(context, id)
}

/** Lets a run change places with the one before it in the queue. */
export function moveRunUp(context: Context, id: string): RunSummary {
  store.moveUp(context.db, id, Date.now())
  return runSummary(context, id)
}

/** Lets a run that waits for its time start as soon as it is its turn. */
export function startRunNow(context: Context, id: string): RunSummary {
  store.startRunAt(context.db, id, null, Date.now())
  return runSummary(context, id)
}
