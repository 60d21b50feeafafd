import { memo, type ReactNode, useRef } from 'react'
import { resultUrl, thumbnailUrl } from '../api/client'
import { SampleCanvas } from '../bench/samples'
import { isPicture, type SamplePictures, useShown } from '../bench/use-sample-pictures'
import { SmallPicture } from '../controls/small-picture'
import { type Centre, Closely } from './closely'
import styles from './proof.module.css'
import { StageGrips } from './stage-grips'
import { useFrameByPointer } from './use-frame-by-pointer'
import type { ProofState } from './use-proof-state'
import { largeOf, standingOf } from './use-wishes'

interface Props {
  state: ProofState
  shown: SamplePictures
  showsSource: boolean
  /** At 100 %. */
  isClose: boolean
  onClose(isClose: boolean): void
}

const shownEdge = 1280

/**
 * The picture in hand, as it is or will be delivered. Dragging it moves it under its frame, the wheel makes the frame smaller and larger;
 * at 100 % dragging moves the view.
 */
export function Stage({ state, shown, showsSource, isClose, onClose }: Props): ReactNode {
  const { path, picture, proof, touchUp } = state
  const delivered = proof.run !== null && picture && state.isAsDelivered(picture) ? picture.delivered : null
  const frame = useFrameByPointer(state, { standing: () => standingOf(shown, path), isOff: isClose })
  // From picture to picture the same part is looked at.
  const centre = useRef<Centre>({ x: 0.5, y: 0.5 })
  const small = showsSource ? thumbnailUrl(path, shownEdge) : delivered && resultUrl(delivered.resultId, shownEdge)
  return (
    <div
      className={styles.stage}
      data-aside={touchUp.setAside ? true : undefined}
      data-framed={frame.isFramed ? true : undefined}
      {...frame.handlers}
    >
      {isClose && !showsSource ? (
        <Closely key={path} path={path} steps={state.finishedSteps(path)} resultId={delivered?.resultId} centre={centre} />
      ) : (
        <div className={styles.sheet}>
          {small ? (
            <SmallPicture src={small} alt={showsSource ? 'The source' : 'As it was delivered'} />
          ) : (
            <Large shown={shown} path={path} />
          )}
          {!showsSource && <StageGrips state={state} shown={shown} />}
        </div>
      )}
      <span className={styles.badges}>
        {showsSource && <span>Source</span>}
        {touchUp.setAside && <span>✕ set aside</span>}
        {proof.run !== null && !delivered && !showsSource && <span>◆ as it will be delivered</span>}
      </span>
      <button
        type="button"
        className={styles.zoom}
        aria-pressed={isClose}
        // It lies on the picture, which is pulled by what is pressed on it.
        onPointerDown={(event) => event.stopPropagation()}
        onClick={() => onClose(!isClose)}
      >
        {isClose ? 'All of it' : '100 %'}
      </button>
    </div>
  )
}

/** The picture as it comes from the worker: it alone is drawn anew with every nudge. */
const Large = memo(function Large({ shown, path }: { shown: SamplePictures; path: string }): ReactNode {
  const large = useShown(shown, (all) => largeOf(all, path))
  return isPicture(large) ? <SampleCanvas picture={large} /> : <p className={styles.waiting}>{large?.sentence ?? ''}</p>
})
