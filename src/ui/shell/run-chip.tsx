'use client'

import Link from 'next/link'
import type { ReactNode } from 'react'
import { formatDuration } from '@/base/format'
import { isOver, type RunState } from '@/jobs/run'
import { useRuns, useStatus } from '../api/queries'
import { describeState, isWaitingForTime } from '../runs/words'
import styles from './shell.module.css'

const said = (count: number, word: string): string[] => (count > 0 ? [`${count} ${word}`] : [])

/** What is running now, in one line: `1 running · 41 of 88 · 3 min left`. */
export function RunChip(): ReactNode {
  const { data: runs = [] } = useRuns()
  const { data: status } = useStatus()
  const queued = runs.filter((run) => !isOver(run.state))
  const [waiting] = queued.filter(isWaitingForTime).toSorted((a, b) => (a.startAt ?? 0) - (b.startAt ?? 0))
  const active = queued.filter((run) => !isWaitingForTime(run))
  if (active.length === 0)
    return waiting ? (
      <Link href={`/runs/${waiting.id}`} className={styles.chip}>
        {describeState(waiting)}
      </Link>
    ) : null
  const all = active.flatMap((run) => Object.entries(run.totals))
  const sum = (states: readonly string[]): number =>
    all.reduce((total, [state, count]) => (states.includes(state) ? total + count : total), 0)
  const over = sum(['done', 'failed', 'skipped'])
  const left = Math.max(...active.map((run) => run.secondsLeft ?? 0))
  const count = (state: RunState): number => active.filter((run) => run.state === state).length
  const paused = count('paused')
  const words = [
    ...said(count('running'), 'running'),
    ...said(count('waiting'), 'waiting'),
    ...said(paused, 'paused'),
    `${over} of ${over + sum(['waiting', 'working'])}`,
    status?.runner.away
      ? 'the runner is away'
      : status?.runner.trouble
        ? 'the runner can’t work'
        : left > 0
          ? `${formatDuration(left)} left`
          : null,
  ]
  return (
    <Link
      href={active.length === 1 && active[0] ? `/runs/${active[0].id}` : '/runs'}
      className={styles.chip}
      data-paused={paused > 0 || undefined}
    >
      <span className={styles.chipDot} aria-hidden="true" />
      {words.filter(Boolean).join(' · ')}
    </Link>
  )
}
