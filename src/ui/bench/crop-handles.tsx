'use client'

import { type PointerEvent, type ReactNode, useRef } from 'react'
import type { Size } from '@/base/geometry'
import type { Settings } from '@/operations'
import { type CropSettings, cropRect } from '@/operations/catalogue/crop'
import styles from './stage.module.css'

interface Props {
  settings: Settings
  /** Full-size pixels of the picture that is cropped. */
  picture: Size
  /** Its size on the page. */
  shown: Size
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

type Grip = 'move' | 'nw' | 'ne' | 'sw' | 'se'
const corners: readonly Exclude<Grip, 'move'>[] = ['nw', 'ne', 'sw', 'se']
const clamp = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))
const tenth = (value: number): number => Math.round(value * 10) / 10

/** The frame of a crop step, drawn on the picture before it: drag it to move, its corners to size it. */
export function CropHandles({ settings, picture, shown, onDraft, onCommit }: Props): ReactNode {
  const grab = useRef<{ grip: Grip; x: number; y: number; settings: CropSettings } | null>(null)
  const scale = shown.width / picture.width
  const rect = cropRect(settings as CropSettings, picture)
  const box = { left: rect.x * scale, top: rect.y * scale, width: rect.width * scale, height: rect.height * scale }

  const start = (grip: Grip) => (event: PointerEvent<HTMLElement>) => {
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    grab.current = { grip, x: event.clientX, y: event.clientY, settings: settings as CropSettings }
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
    return drag(from.settings, from.grip, picture, (event.clientX - from.x) / scale, (event.clientY - from.y) / scale)
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

/** The crop's settings after a grip was dragged by dx, dy full-size pixels. */
export function drag(settings: CropSettings, grip: Grip, picture: Size, dx: number, dy: number): Settings {
  if (settings.shape === 'margins') return dragMargins(settings, grip, picture, dx, dy)
  const rect = cropRect(settings, picture)
  if (grip === 'move') return placedAt(settings, picture, rect, rect.x + dx, rect.y + dy)
  if (settings.shape !== 'ratio') return settings
  const outwards = grip.includes('e') ? dx : -dx
  const sizePercent = tenth(clamp((settings.sizePercent * (rect.width + outwards)) / rect.width, 5, 100))
  const sized = cropRect({ ...settings, sizePercent }, picture)
  // The opposite corner stays where it is.
  const x = grip.includes('w') ? rect.x + rect.width - sized.width : rect.x
  const y = grip.includes('n') ? rect.y + rect.height - sized.height : rect.y
  return placedAt({ ...settings, sizePercent }, picture, sized, x, y)
}

function placedAt(settings: CropSettings, picture: Size, frame: Size, x: number, y: number): Settings {
  const share = (place: number, free: number): number => (free <= 0 ? 50 : tenth(clamp((place / free) * 100, 0, 100)))
  return { ...settings, positionXPercent: share(x, picture.width - frame.width), positionYPercent: share(y, picture.height - frame.height) }
}

function dragMargins(s: CropSettings, grip: Grip, picture: Size, dx: number, dy: number): Settings {
  const [px, py] = [(dx / picture.width) * 100, (dy / picture.height) * 100]
  const left = grip === 'move' || grip.includes('w') ? px : 0
  const right = grip === 'move' || grip.includes('e') ? -px : 0
  const top = grip === 'move' || grip.includes('n') ? py : 0
  const bottom = grip === 'move' || grip.includes('s') ? -py : 0
  const margin = (value: number, by: number, opposite: number): number => tenth(clamp(value + by, 0, 95 - opposite))
  return {
    ...s,
    leftPercent: margin(s.leftPercent, left, s.rightPercent),
    rightPercent: margin(s.rightPercent, right, s.leftPercent),
    topPercent: margin(s.topPercent, top, s.bottomPercent),
    bottomPercent: margin(s.bottomPercent, bottom, s.topPercent),
  }
}
