import { Button } from 'antd'
import type { ReactNode } from 'react'
import type { Problem, Remedy } from '@/contract/answers'
import type { Loop } from '@/jobs/loop'
import styles from './loops.module.css'

interface Props {
  list: readonly Problem[]
  /** Takes up the change that does away with a problem. */
  onMend?(change: Partial<Loop>): void
  /** Does something besides the loop. */
  onRemedy?(does: Remedy['does']): void
}

/** What a preflight found, each with what mends it where that can be done here. */
export function Problems({ list, onMend, onRemedy }: Props): ReactNode {
  // Read out as they come, without moving the focus.
  return (
    <div className={styles.problems} aria-live="polite">
      {list.map(({ blocks, sentence, mend, remedy, toFillIn }) => (
        <p key={sentence} className={styles.problem} data-blocks={blocks || undefined} data-open={toFillIn}>
          <span aria-hidden="true">{toFillIn ? '○' : blocks ? '✕' : '▲'}</span>
          <span>
            {!toFillIn && <b>{blocks ? 'Can’t run: ' : 'Note: '}</b>}
            {sentence}{' '}
            {mend && onMend && (
              <Button size="small" onClick={() => onMend(mend.change)}>
                {mend.label}
              </Button>
            )}{' '}
            {remedy && onRemedy && (
              <Button size="small" onClick={() => onRemedy(remedy.does)}>
                {remedy.label}
              </Button>
            )}
          </span>
        </p>
      ))}
    </div>
  )
}
