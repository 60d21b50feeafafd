import { counted } from '@/base/format'

/*
 * Lives of a run and of its pictures.
 *
 *   run:      waiting ──▶ running ──▶ done
 *                │          │  ▲
 *                │          ▼  │ (a fault, or a person; mended, go on)
 *                │        paused
 *                └────▶ stopped ◀── (stop, from waiting, running, paused)
 *
 *   picture:  waiting ──▶ working ──▶ done | failed
 *                ▲           │
 *                └───────────┘ (its worker or runner died: tried again)
 *             waiting ──▶ skipped (at the freeze, or the run was stopped)
 */

export const runStates = ['waiting', 'running', 'paused', 'stopped', 'done'] as const
export type RunState = (typeof runStates)[number]

export const itemStates = ['waiting', 'working', 'done', 'failed', 'skipped'] as const
export type ItemState = (typeof itemStates)[number]

export type RunEvent = 'claimed' | 'faulted' | 'pause' | 'goOn' | 'stop' | 'finished'

/** The state after an event; undefined where the event has no place. */
export function nextRunState(state: RunState, event: RunEvent): RunState | undefined {
  switch (event) {
    case 'claimed':
      return state === 'waiting' || state === 'running' ? 'running' : undefined
    case 'faulted':
    case 'pause':
      return state === 'running' || state === 'waiting' ? 'paused' : undefined
    case 'goOn':
      return state === 'paused' ? 'waiting' : undefined
    case 'stop':
      return state === 'waiting' || state === 'running' || state === 'paused' ? 'stopped' : undefined
    case 'finished':
      return state === 'running' ? 'done' : undefined
  }
}

/** How many finished runs one page of the list holds. */
export const runsAPage = 50

export const isOver = (state: RunState): boolean => state === 'done' || state === 'stopped'

/** Counts of a run's pictures by state. */
export type RunTotals = Readonly<Record<ItemState, number>>

export const totalOf = (totals: RunTotals): number => Object.values(totals).reduce((sum, count) => sum + count, 0)
export const overOf = (totals: RunTotals): number => totals.done + totals.failed + totals.skipped

/** `30 done, 2 failed, 4 pictures to go`; at the end `32 delivered, 0 failed`: also that nothing failed is worth a word. */
export function describeTotals(totals: RunTotals): string {
  if (totalOf(totals) === 0) return 'no pictures'
  const { done, failed, skipped, waiting, working } = totals
  const open = waiting + working
  const said = (count: number, word: string, always = false): string[] =>
    count > 0 || always ? [`${count.toLocaleString('en-GB')} ${word}`] : []
  const isEnd = open === 0
  const toGo = isEnd ? [] : [`${counted(open, 'picture')} to go`]
  return [...said(done, isEnd ? 'delivered' : 'done', isEnd), ...said(failed, 'failed', isEnd), ...said(skipped, 'skipped'), ...toGo].join(
    ', ',
  )
}

/** Sources that were compared with what they were before, and how many of them had changed. */
export interface Originals {
  readonly compared: number
  readonly changed: number
}

/** What is told at the end of a run. */
export interface RunEnd {
  readonly totals: RunTotals
  readonly originals: Originals
  /** Files of pages, and why one could not be made. */
  readonly gathered?: readonly { readonly problem: string | null }[]
}

/** The end of a run in a line: `15 delivered, 0 failed, 15 originals unchanged`. */
export const describeEnd = ({ totals, originals, gathered = [] }: RunEnd): string =>
  [
    describeTotals(totals),
    ...describeOriginals(originals),
    ...(gathered.some(({ problem }) => problem !== null) ? ['its pages could not be made'] : []),
  ].join(', ')

function describeOriginals({ compared, changed }: Originals): string[] {
  const said = (count: number, word: string): string[] => (count > 0 ? [`${counted(count, 'original')} ${word}`] : [])
  return [...said(compared - changed, 'unchanged'), ...said(changed, 'changed by another program')]
}

/** Stands for the loop of runs that deliver a single picture from the bench or the proof: there is none. */
export const onePictureId = 'one-picture'
