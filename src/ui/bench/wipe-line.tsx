import { type PointerEvent, type ReactNode, useRef } from 'react'
import styles from './stage.module.css'

/** The line between before and after: pull it, or move it by arrow keys. */
export function WipeLine({ at, onMove }: { at: number; onMove(at: number): void }): ReactNode {
  const line = useRef<HTMLDivElement>(null)
  const follow = (event: PointerEvent<HTMLElement>): void => {
    const bounds = line.current?.parentElement?.getBoundingClientRect()
    if (bounds && event.currentTarget.hasPointerCapture(event.pointerId))
      onMove(Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width)))
    event.stopPropagation()
  }
  return (
    <div
      ref={line}
      className={styles.wipe}
      style={{ left: `${at * 100}%` }}
      role="slider"
      tabIndex={0}
      aria-label="Wipe"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      onPointerDown={(event) => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerMove={follow}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
        if (step) onMove(Math.min(1, Math.max(0, at + step)))
      }}
    />
  )
}
