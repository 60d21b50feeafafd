import type { ReactNode } from 'react'
import type { StampHandles as Handles, Settings } from '@/operations'
import styles from './handles.module.css'
import type { Mapping } from './mapping'
import { type Drag, useDrag } from './use-drag'

interface Props {
  handles: Handles
  settings: Settings
  /** The stamp's box in full-size pixels: x, y, width, height. */
  place: readonly number[]
  mapping: Mapping
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

/** The frame of a stamp: pull it to where the stamp belongs; the place is kept as a share of the room there is. */
export function StampHandles({ handles, settings, place, mapping, onDraft, onCommit }: Props): ReactNode {
  const [x = 0, y = 0, width = 0, height = 0] = place
  const { fullSize } = mapping
  const moved = ({ from, to, held }: Drag<'box', Settings>): Settings =>
    handles.pulled(held, place, fullSize, {
      dx: ((to.xPercent - from.xPercent) / 100) * fullSize.width,
      dy: ((to.yPercent - from.yPercent) / 100) * fullSize.height,
    })
  const handlers = useDrag<'box', Settings>(mapping, settings, {
    follow: (drag) => onDraft(moved(drag)),
    end: (drag) => onCommit(moved(drag)),
  })('box')
  const corner = mapping.toPage({ xPercent: (x / fullSize.width) * 100, yPercent: (y / fullSize.height) * 100 })
  const box = { x: corner.x, y: corner.y, width: width * mapping.scale, height: height * mapping.scale }
  return (
    <g>
      <rect className={styles.outline} {...box} />
      <rect className={styles.box} data-testid="stamp-box" {...box} {...handlers} />
    </g>
  )
}
