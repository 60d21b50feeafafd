import type { ReactNode } from 'react'
import type { Settings } from '@/operations'
import styles from './handles.module.css'
import { clamp, type Mapping, tenth } from './mapping'
import { type Drag, useDrag } from './use-drag'

interface Props {
  settings: Settings
  /** The stamp's box in full-size pixels: x, y, width, height. */
  place: readonly number[]
  mapping: Mapping
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

/** The frame of a stamp: pull it to where the stamp belongs; the place is kept as a share of the room there is. */
export function StampHandles({ settings, place, mapping, onDraft, onCommit }: Props): ReactNode {
  const [x = 0, y = 0, width = 0, height = 0] = place
  const { fullSize } = mapping
  const margin = (Math.min(fullSize.width, fullSize.height) * Number(settings.marginPercent)) / 100
  const moved = ({ from, to, held }: Drag<'box', Settings>): Settings => {
    const share = (whole: number, part: number, percent: number, by: number): number => {
      const free = whole - part - 2 * margin
      return free <= 0 ? percent : tenth(clamp(percent + ((by / 100) * whole * 100) / free, 0, 100))
    }
    return {
      ...held,
      positionXPercent: share(fullSize.width, width, Number(held.positionXPercent), to.xPercent - from.xPercent),
      positionYPercent: share(fullSize.height, height, Number(held.positionYPercent), to.yPercent - from.yPercent),
    }
  }
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
