import type { RunSummary } from '@/contract/answers'
import { isOver, type RunState } from '@/jobs/run'

type Seen = Pick<RunSummary, 'id' | 'number' | 'state' | 'reason'>

export const isHeldUp = ({ state, reason }: Pick<Seen, 'state' | 'reason'>): boolean => state === 'paused' && reason !== null

/**
 * Given the list of runs as it is learnt, again and again and by whichever way, returns those of it that have ended or were
 * held up by a fault since the time before: each once. The first list is where it starts from.
 */
export function runNews<Run extends Seen>(): (runs: readonly Run[]) => readonly Run[] {
  const states = new Map<string, RunState>()
  let newest = Number.POSITIVE_INFINITY
  return (runs) => {
    const news = runs.filter((run) => {
      const before = states.get(run.id)
      // What is over stays over: an answer from before that came late changes nothing.
      if (before === run.state || (before && isOver(before))) return false
      states.set(run.id, run.state)
      const isNew = before !== undefined || run.number > newest
      return isNew && (isOver(run.state) || isHeldUp(run))
    })
    newest = runs.reduce((highest, { number }) => Math.max(highest, number), Number.isFinite(newest) ? newest : 0)
    return news
  }
}
