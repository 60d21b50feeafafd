import { type PointerEvent, useRef } from 'react'
import type { Mapping, Place } from './mapping'

export interface DragHandlers {
  onPointerDown(event: PointerEvent<Element>): void
  onPointerMove(event: PointerEvent<Element>): void
  onPointerUp(event: PointerEvent<Element>): void
  onPointerCancel(): void
}

/** A pull under way: what is held, where it was taken, where it is now, and what there was when it was taken. */
export interface Drag<Grip, Held> {
  readonly grip: Grip
  readonly from: Place
  readonly to: Place
  /** Pulls are counted from here, not from the draft they make. */
  readonly held: Held
}

interface DragListeners<Grip, Held> {
  start?(drag: Drag<Grip, Held>): void
  follow(drag: Drag<Grip, Held>): void
  end(drag: Drag<Grip, Held>): void
  /** The system has taken the pointer away: nothing was pulled. The bench drops the draft by itself. */
  cancel?(): void
}

/**
 * Pulling something on the picture. Places are counted from the upper left corner of the layer around it (`data-layer`).
 * @returns handlers for an element that can be pulled; `grip` says which.
 */
export function useDrag<Grip, Held>(mapping: Mapping, now: Held, on: DragListeners<Grip, Held>): (grip: Grip) => DragHandlers {
  const drag = useRef<Omit<Drag<Grip, Held>, 'to'> | null>(null)
  const placeOf = (event: PointerEvent<Element>): Place => {
    const bounds = event.currentTarget.closest('[data-layer]')?.getBoundingClientRect()
    return mapping.toPlace(event.clientX - (bounds?.left ?? 0), event.clientY - (bounds?.top ?? 0))
  }
  return (grip) => ({
    onPointerDown: (event) => {
      if (event.button !== 0) return
      event.stopPropagation()
      event.currentTarget.setPointerCapture(event.pointerId)
      const from = placeOf(event)
      drag.current = { grip, from, held: now }
      on.start?.({ grip, from, to: from, held: now })
    },
    onPointerMove: (event) => {
      if (drag.current) on.follow({ ...drag.current, to: placeOf(event) })
    },
    onPointerUp: (event) => {
      const dragged = drag.current
      drag.current = null
      if (dragged) on.end({ ...dragged, to: placeOf(event) })
    },
    onPointerCancel: () => {
      drag.current = null
      on.cancel?.()
    },
  })
}
