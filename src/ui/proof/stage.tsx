import { memo, type PointerEvent, type ReactNode, useEffect, useRef } from 'react'
import type { TouchUp } from '@/jobs/touch-up'
import { resultUrl, thumbnailUrl } from '../api/client'
import { SampleCanvas } from '../bench/samples'
import { isPicture, type SamplePictures, useShown } from '../bench/use-sample-pictures'
import { SmallPicture } from '../controls/small-picture'
import { framedStep, type StandingSteps, withFrame, withFrameSize } from './nudges'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'
import { largeOf, standingOf } from './use-wishes'

interface Props {
  state: ProofState
  shown: SamplePictures
  showsSource: boolean
}

/** Of the frame's size, for each notch of a wheel. */
const wheelPercent = 2
const shownEdge = 1280

/** The picture in hand, as it is or will be delivered. Dragging it moves it under its frame, the wheel makes the frame smaller and larger. */
export function Stage({ state, shown, showsSource }: Props): ReactNode {
  const { path, picture, proof, touchUp } = state
  const isDelivered = proof.run !== null && picture !== undefined && state.isAsDelivered(picture)
  const frame = useFrameByPointer(state, () => standingOf(shown, path))
  return (
    <div
      className={styles.stage}
      data-aside={touchUp.setAside ? true : undefined}
      data-framed={frame.isFramed ? true : undefined}
      {...frame.handlers}
    >
      {showsSource ? (
        <SmallPicture src={thumbnailUrl(path, shownEdge)} alt="The source" />
      ) : isDelivered && picture?.delivered ? (
        <SmallPicture src={resultUrl(picture.delivered.resultId, shownEdge)} alt="As it was delivered" />
      ) : (
        <Large shown={shown} path={path} />
      )}
      <span className={styles.badges}>
        {showsSource && <span>Source</span>}
        {touchUp.setAside && <span>✕ set aside</span>}
        {proof.run !== null && !isDelivered && !showsSource && <span>◆ as it will be delivered</span>}
      </span>
    </div>
  )
}

/** The picture as it comes from the worker: it alone is drawn anew with every nudge. */
const Large = memo(function Large({ shown, path }: { shown: SamplePictures; path: string }): ReactNode {
  const large = useShown(shown, (all) => largeOf(all, path))
  return isPicture(large) ? <SampleCanvas picture={large} /> : <p className={styles.waiting}>{large?.sentence ?? ''}</p>
})

/** Moves and sizes the frame by what the pointer does on the picture. */
function useFrameByPointer(state: ProofState, standing: () => StandingSteps) {
  const { proof, touchUp } = state
  const grab = useRef<{ x: number; y: number; from: TouchUp; standing: StandingSteps; width: number; height: number } | null>(null)
  const stage = useRef<HTMLElement | null>(null)
  const framed = framedStep(proof.macros)
  const standingNow = () => standing().find(({ stepId }) => stepId === framed?.stepId)

  const start = (event: PointerEvent<HTMLElement>): void => {
    const shown = event.currentTarget.querySelector('canvas, img')?.getBoundingClientRect()
    if (!shown || !standingNow() || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    grab.current = { x: event.clientX, y: event.clientY, from: touchUp, standing: standing(), width: shown.width, height: shown.height }
  }
  const follow = (event: PointerEvent<HTMLElement>): void => {
    const held = grab.current
    const now = held && standingNow()
    const size = now && sizeOf(now.constants)
    if (!held || !size) return
    // The picture goes with the pointer, so its frame goes the other way: in per cent of the room it has.
    const percent = (by: number, shown: number, part: number, whole: number): number =>
      whole > part ? (-100 * by * part) / shown / (whole - part) : 0
    const across = percent(event.clientX - held.x, held.width, size.width, now.sizeBefore.width)
    const down = percent(event.clientY - held.y, held.height, size.height, now.sizeBefore.height)
    if (Math.abs(event.clientX - held.x) + Math.abs(event.clientY - held.y) < 3) return
    state.draft(withFrame(held.from, proof.macros, [across, down], held.standing))
  }
  const end = (): void => {
    grab.current = null
  }
  const latest = useRef(state)
  latest.current = state
  useEffect(() => {
    const element = stage.current
    if (!element) return
    // React listens to wheels passively: the page would scroll.
    const turn = (event: WheelEvent): void => {
      if (!framedStep(latest.current.proof.macros)) return
      event.preventDefault()
      const { touchUp: own, proof: of, draft } = latest.current
      draft(withFrameSize(own, of.macros, event.deltaY > 0 ? wheelPercent : -wheelPercent))
    }
    element.addEventListener('wheel', turn, { passive: false })
    return () => element.removeEventListener('wheel', turn)
  }, [])
  return {
    isFramed: framed !== undefined,
    handlers: {
      ref: (element: HTMLDivElement | null) => {
        stage.current = element
      },
      onPointerDown: start,
      onPointerMove: follow,
      onPointerUp: end,
      onPointerCancel: end,
    },
  }
}

function sizeOf(constants: Readonly<Record<string, unknown>>): { readonly width: number; readonly height: number } | undefined {
  const { width, height } = constants
  return typeof width === 'number' && typeof height === 'number' ? { width, height } : undefined
}
