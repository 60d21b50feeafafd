import type { RunResultRow, RunSummary } from '@/contract/answers'
import type { ItemState, RunState } from '@/jobs/run'
import { describeMoment } from '../loops/words'

/** How states are shown: always a word and a shape besides the colour. */
export const itemMarks: Readonly<Record<ItemState, { word: string; shape: string; colour: string }>> = {
  waiting: { word: 'waiting', shape: '○', colour: 'var(--quiet-ink)' },
  working: { word: 'working', shape: '◔', colour: 'var(--copper)' },
  done: { word: 'done', shape: '●', colour: 'var(--verdigris)' },
  failed: { word: 'failed', shape: '✕', colour: 'var(--brick)' },
  skipped: { word: 'skipped', shape: '–', colour: 'var(--quiet-ink)' },
}

export const runWords: Readonly<Record<RunState, string>> = {
  waiting: 'Waiting for its turn',
  running: 'Running',
  paused: 'Paused',
  stopped: 'Stopped',
  done: 'Done',
}

export const isWaitingForTime = ({ startAt }: Pick<RunSummary, 'startAt'>): boolean => startAt !== null && startAt > Date.now()

/** A run's state in words, with the time it waits for. */
export const describeState = (run: Pick<RunSummary, 'state' | 'startAt'>): string =>
  run.startAt !== null && isWaitingForTime(run) ? `Starts ${describeMoment(run.startAt)}` : runWords[run.state]

/** What stands out about a picture and its delivered files, each thing once. */
export const marksOf = ({ results, remarks }: Pick<RunResultRow, 'results' | 'remarks'>): string[] => [
  ...new Set([...remarks, ...results.flatMap(({ marks }) => marks)]),
]
