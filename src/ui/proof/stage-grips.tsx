import { type PointerEvent, type ReactNode, useRef, useState } from 'react'
import type { TouchUp } from '@/jobs/touch-up'
import type { SamplePictures } from '../bench/use-sample-pictures'
import { handledIds, levelOf, type StandingSteps, stampBox, withLevelAt, withStampPulled } from './nudges'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'
import { standingOf, useStanding } from './use-wishes'

/** A pull under way: where it began, what there was then, and the picture's rectangle on the page. */
interface Pull {
  readonly x: number
  readonly y: number
  readonly from: TouchUp
  readonly standing: StandingSteps
  readonly sheet: DOMRect
}

/** What can be pulled on the picture itself, besides its frame: the grip at its upper edge turns it, the stamp goes elsewhere. */
export function StageGrips({ state, shown }: { state: ProofState; shown: SamplePictures }): ReactNode {
  const { path, touchUp, proof, draft } = state
  const { macros } = proof
  const standing = useStanding(shown, path, handledIds(macros))
  const [isTurning, setTurning] = useState(false)
  const pull = useRef<Pull | null>(null)

  const handlers = (follow: (pull: Pull, event: PointerEvent<Element>) => TouchUp, hold: (isHeld: boolean) => void = () => undefined) => {
    const end = (): void => {
      pull.current = null
      hold(false)
    }
    return {
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        const sheet = event.currentTarget.parentElement?.getBoundingClientRect()
        if (event.button !== 0 || !sheet) return
        // The picture under it stays where it is.
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        pull.current = { x: event.clientX, y: event.clientY, from: touchUp, standing: standingOf(shown, path), sheet }
        hold(true)
      },
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        event.stopPropagation()
        if (pull.current) draft(follow(pull.current, event))
      },
      onPointerUp: end,
      onPointerCancel: end,
    }
  }
  /** As far as the pointer goes around the picture's middle. */
  const turned = ({ x, y, from, standing: stood, sheet }: Pull, event: PointerEvent<Element>): TouchUp => {
    const [middleX, middleY] = [sheet.left + sheet.width / 2, sheet.top + sheet.height / 2]
    const angle = Math.atan2(event.clientY - middleY, event.clientX - middleX) - Math.atan2(y - middleY, x - middleX)
    return withLevelAt(from, macros, levelOf(from, macros, stood) + (Math.atan2(Math.sin(angle), Math.cos(angle)) * 180) / Math.PI)
  }
  const stamp = stampBox(macros, standing)
  const pulled = ({ x, y, from, standing: stood, sheet }: Pull, event: PointerEvent<Element>): TouchUp => {
    const picture = stamp?.picture ?? { width: 0, height: 0 }
    const by = {
      dx: ((event.clientX - x) / sheet.width) * picture.width,
      dy: ((event.clientY - y) / sheet.height) * picture.height,
    }
    return withStampPulled(from, macros, by, stood)
  }
  const [left = 0, top = 0, width = 0, height = 0] = stamp?.box ?? []
  const share = (part: number, whole: number | undefined): string => `${(100 * part) / (whole || 1)}%`
  return (
    <>
      {isTurning && <span className={styles.lines} />}
      <span
        className={styles.turnGrip}
        title="Pull to the side to turn the picture"
        data-testid="turn-grip"
        {...handlers(turned, setTurning)}
      >
        ↻
      </span>
      {stamp && (
        <span
          className={styles.stampGrip}
          title="Pull the stamp elsewhere"
          data-testid="stamp-grip"
          style={{
            left: share(left, stamp.picture.width),
            top: share(top, stamp.picture.height),
            width: share(width, stamp.picture.width),
            height: share(height, stamp.picture.height),
          }}
          {...handlers(pulled)}
        />
      )}
    </>
  )
}
