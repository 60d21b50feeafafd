import type { ReactNode } from 'react'
import { resultUrl } from '../api/client'
import { SampleCanvas } from '../bench/samples'
import { isPicture, type SampleState } from '../bench/use-sample-pictures'
import { SmallPicture } from '../controls/small-picture'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'
import { keyOf } from './use-wishes'

/** The picture’s neighbours in their order: it is judged among its siblings. */
export function Beside({ state, shown }: { state: ProofState; shown: ReadonlyMap<string, SampleState> }): ReactNode {
  const { pictures, at } = state
  const beside = [-2, -1, 1, 2].flatMap((by) => {
    const other = pictures[at + by]
    return other ? [{ other, index: at + by }] : []
  })
  return (
    <aside className={styles.beside} aria-label="Its neighbours">
      {beside.map(({ other, index }) => {
        const sample = shown.get(keyOf(other.sourcePath, false))
        const isDelivered = state.proof.run !== null && state.isAsDelivered(other)
        return (
          <button type="button" key={other.sourcePath} onClick={() => state.go(index)} aria-label={`Go to ${other.relativePath}`}>
            {isDelivered && other.delivered ? (
              <SmallPicture src={resultUrl(other.delivered.resultId, 320)} alt="" />
            ) : isPicture(sample) ? (
              <SampleCanvas picture={sample} />
            ) : (
              <span className={styles.empty} />
            )}
            <span className={styles.quiet}>{other.relativePath}</span>
          </button>
        )
      })}
    </aside>
  )
}
