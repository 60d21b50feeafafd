import type { ReactNode } from 'react'
import { SampleCanvas } from '../bench/samples'
import { isPicture, type SampleState } from '../bench/use-sample-pictures'
import styles from './macros.module.css'

interface Props {
  before: SampleState | undefined
  after: SampleState | undefined
  large?: boolean
}

/** A small picture before and after a macro. */
export function BeforeAfter({ before, after, large }: Props): ReactNode {
  return (
    <div className={styles.pair} data-large={large || undefined}>
      {[before, after].map((state, i) => (
        <figure key={i === 0 ? 'before' : 'after'}>
          {isPicture(state) ? <SampleCanvas picture={state} /> : <span>{state ? 'can’t be shown' : ''}</span>}
          {large && <figcaption>{i === 0 ? 'Before' : 'After'}</figcaption>}
        </figure>
      ))}
    </div>
  )
}
