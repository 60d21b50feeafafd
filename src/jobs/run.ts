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
