import { memo, type ReactNode } from 'react'
import { resultUrl } from '../api/client'
import { SampleCanvas } from '../bench/samples'
import { isPicture, type SamplePictures, useShown } from '../bench/use-sample-pictures'
import { SmallPicture } from '../controls/small-picture'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'
import { keyOf } from './use-wishes'

/** The picture’s neighbours in their order: it is judged among its siblings. */
export function Beside({ state, shown }: { state: ProofState; shown: SamplePictures }): ReactNode {
  const { pictures, at } = state
  const beside = [-2, -1, 1, 2].flatMap((by) => {
    const other = pictures[at + by]
    return other ? [{ other, index: at + by }] : []
  })
  return (
    <aside className={styles.beside} aria-label="Its neighbours">
      {beside.map(({ other, index }) => (
        <button type="button" key={other.sourcePath} onClick={() => state.go(index)} aria-label={`Go to ${other.relativePath}`}>
          <Neighbour
            shown={shown}
            path={other.sourcePath}
            resultId={state.proof.run !== null && state.isAsDelivered(other) ? other.delivered?.resultId : undefined}
          />
          <span className={styles.quiet}>{other.relativePath}</span>
        </button>
      ))}
    </aside>
  )
}

interface NeighbourProps {
  shown: SamplePictures
  path: string
  /** Where its delivered file is shown. */
  resultId?: number
}

const Neighbour = memo(function Neighbour({ shown, path, resultId }: NeighbourProps): ReactNode {
  const sample = useShown(shown, (all) => all.get(keyOf(path, false)))
  if (resultId !== undefined) return <SmallPicture src={resultUrl(resultId, 320)} alt="" />
  return isPicture(sample) ? <SampleCanvas picture={sample} /> : <span className={styles.empty} />
})
