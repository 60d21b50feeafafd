'use client'

import { Alert } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import type { ReactNode } from 'react'
import type { RunSummary } from '@/server/runs'
import { useRuns, useStatus } from '../api/queries'
import page from '../shell/page.module.css'
import { ProgressLine } from './progress-line'
import styles from './runs.module.css'
import { describeTotals, runWords } from './words'

/** Queue and history: one row a run. */
export function RunsPage(): ReactNode {
  const { data: runs, error } = useRuns()
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Runs</h1>
      </div>
      <RunnerAway />
      {error && <p className={page.empty}>{error.message}</p>}
      {runs?.length === 0 && (
        <p className={page.empty}>
          Nothing has run yet. Open <Link href="/loops">Loops</Link> and run one.
        </p>
      )}
      <ul className={page.rows}>
        {runs?.map((run) => (
          <RunRow key={run.id} run={run} />
        ))}
      </ul>
    </div>
  )
}

export function RunnerAway(): ReactNode {
  const { data: status } = useStatus()
  if (!status?.runnerAway) return null
  return (
    <Alert
      type="warning"
      showIcon
      style={{ marginBottom: 12 }}
      title="The runner is away"
      description="Pictures wait and nothing is lost. It is started again by itself; if this stays, stop Copper Loop in its terminal and start it anew."
    />
  )
}

function RunRow({ run }: { run: RunSummary }): ReactNode {
  return (
    <li className={page.row}>
      <div className={styles.rowName}>
        <Link href={`/runs/${run.id}`}>
          <b>Run {run.number}</b> · {run.loopName}
        </Link>
        <div className={page.quiet}>{dayjs(run.createdAt).format('D MMM YYYY HH:mm')}</div>
      </div>
      <div className={styles.rowLine}>
        <ProgressLine run={run} />
        <div className={page.quiet}>{describeTotals(run.totals)}</div>
      </div>
      <div className={styles.rowState}>{runWords[run.state]}</div>
    </li>
  )
}
