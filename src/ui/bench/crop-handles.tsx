'use client'

import { type PointerEvent, type ReactNode, useRef } from 'react'
import type { Size } from '@/base/geometry'
import type { FrameGrip, FrameHandles, Settings } from '@/operations'
import styles from './stage.module.css'

interface Props {
  frame: FrameHandles
  settings: Settings
  /** Full-size pixels of the picture that is cropped. */
  picture: Size
  /** Its size on the page. */
  shown: Size
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

const corners: readonly Exclude<FrameGrip, 'move'>[] = ['nw', 'ne', 'sw', 'se']

/** The frame of a crop step, drawn on the picture before it: drag it to move, its corners to size it. */
export function CropHandles({ frame, settings, picture, shown, onDraft, onCommit }: Props): ReactNode {
  const grab = useRef<{ grip: FrameGrip; x: number; y: number; settings: Settings } | null>(null)
  const scale = shown.width / picture.width
  const rect = frame.rect(settings, picture)
  const box = { left: rect.x * scale, top: rect.y * scale, width: rect.width * scale, height: rect.height * scale }

  const start = (grip: FrameGrip) => (event: PointerEvent<HTMLElement>) => {
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    grab.current = { grip, x: event.clientX, y: event.clientY, settings }
  }
  const follow = (event: PointerEvent): void => {
    if (grab.current) onDraft(dragged(event))
  }
  const end = (event: PointerEvent): void => {
    if (grab.current) onCommit(dragged(event))
    grab.current = null
  }
  const cancel = (): void => {
    grab.current = null
  }
  const dragged = (event: PointerEvent): Settings => {
    const from = grab.current
    if (!from) return settings
    const by = { dx: (event.clientX - from.x) / scale, dy: (event.clientY - from.y) / scale }
    return frame.dragged(from.settings, from.grip, picture, by)
  }

  return (
    <div className={styles.cropLayer}>
      <div
        className={styles.cropFrame}
        style={box}
        onPointerDown={start('move')}
        onPointerMove={follow}
        onPointerUp={end}
        onPointerCancel={cancel}
        title="Drag to move the crop"
      >
        {corners.map((corner) => (
          <span
            key={corner}
            className={styles.cropCorner}
            data-corner={corner}
            onPointerDown={start(corner)}
            onPointerMove={follow}
            onPointerUp={end}
            onPointerCancel={cancel}
          />
        ))}
      </div>
    </div>
  )
}
