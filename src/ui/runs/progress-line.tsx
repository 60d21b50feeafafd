import type { ReactNode } from 'react'
import type { RunSummary } from '@/contract/answers'
import { isOver, overOf, totalOf } from '@/jobs/run'
import styles from './runs.module.css'

/** The run's stretch of the copper line: filled as pictures pass, a bright point at the front while it runs. */
export function ProgressLine({ run }: { run: RunSummary }): ReactNode {
  const total = totalOf(run.totals)
  const share = total === 0 ? 1 : overOf(run.totals) / total
  const failedShare = total === 0 ? 0 : run.totals.failed / total
  return (
    <div
      className={styles.progress}
      role="progressbar"
      aria-label="Pictures finished"
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      data-over={isOver(run.state) || undefined}
    >
      <div className={styles.progressFill} style={{ width: `${share * 100}%` }} />
      <div className={styles.progressFailed} style={{ width: `${failedShare * 100}%` }} />
      {!isOver(run.state) && <div className={styles.progressPoint} style={{ left: `${share * 100}%` }} />}
    </div>
  )
}
