import { Tooltip } from 'antd'
import type { ReactNode } from 'react'
import { type Step, stepName, stepSetting } from '@/macros/step'
import styles from './macros.module.css'

/** A macro's steps as beads on a short line, each named. */
export function ShortWire({ steps }: { steps: readonly Step[] }): ReactNode {
  return (
    <ol className={styles.shortWire}>
      {steps.map((step) => (
        <Tooltip key={step.id} title={stepSetting(step)}>
          <li data-off={!step.enabled || undefined}>
            <span className={styles.dot} aria-hidden="true" />
            {stepName(step)}
          </li>
        </Tooltip>
      ))}
    </ol>
  )
}
