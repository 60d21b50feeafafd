import type { ReactNode } from 'react'
import { clamp, tenth } from '@/base/scale'
import type { Settings } from '@/operations'
import styles from './handles.module.css'
import type { Mapping, Place } from './mapping'
import { type Drag, useDrag } from './use-drag'

const corners = ['topLeft', 'topRight', 'bottomRight', 'bottomLeft'] as const
type Corner = (typeof corners)[number]
const home: Readonly<Record<Corner, Place>> = {
  topLeft: { xPercent: 0, yPercent: 0 },
  topRight: { xPercent: 100, yPercent: 0 },
  bottomRight: { xPercent: 100, yPercent: 100 },
  bottomLeft: { xPercent: 0, yPercent: 100 },
}
/** How far a corner may move, as the settings have it. */
const reach = 25

interface Props {
  settings: Settings
  mapping: Mapping
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

const placeOf = (settings: Settings, corner: Corner): Place => ({
  xPercent: home[corner].xPercent + Number(settings[`${corner}XPercent`]),
  yPercent: home[corner].yPercent + Number(settings[`${corner}YPercent`]),
})

/** The settings after a corner was pulled. */
export function dragCorner({ grip, held, from, to }: Drag<Corner, Settings>): Settings {
  const moved = (key: string, by: number): number => tenth(clamp(Number(held[key]) + by, -reach, reach))
  const [x, y] = [`${grip}XPercent`, `${grip}YPercent`]
  return { ...held, [x]: moved(x, to.xPercent - from.xPercent), [y]: moved(y, to.yPercent - from.yPercent) }
}

/** Four corners on the picture before it is pulled straight: lay them on what should become a rectangle. */
export function CornerLayer({ settings, mapping, onDraft, onCommit }: Props): ReactNode {
  const grip = useDrag<Corner, Settings>(mapping, settings, {
    follow: (drag) => onDraft(dragCorner(drag)),
    end: (drag) => onCommit(dragCorner(drag)),
  })
  const places = corners.map((corner) => mapping.toPage(placeOf(settings, corner)))
  const outline = places.map(({ x, y }) => `${x},${y}`).join(' ')
  return (
    <g>
      <polygon className={styles.outline} points={outline} />
      <polygon className={styles.line} points={outline} />
      {corners.map((corner, i) => (
        <circle key={corner} className={styles.dot} data-grip={corner} cx={places[i]?.x} cy={places[i]?.y} r={9} {...grip(corner)} />
      ))}
    </g>
  )
}
