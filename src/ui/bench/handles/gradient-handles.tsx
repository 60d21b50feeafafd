import type { ReactNode } from 'react'
import { clamp } from '@/base/scale'
import type { Limit } from '@/macros/limit'
import styles from './handles.module.css'
import { half, type Mapping, type Place } from './mapping'
import { type Drag, useDrag } from './use-drag'

interface Props {
  limit: Limit
  mapping: Mapping
  onDraft(limit: Limit): void
  onCommit(limit: Limit): void
}

const placeOf = ({ settings }: Limit, x: string, y: string): Place => ({ xPercent: settings[x] ?? 0, yPercent: settings[y] ?? 0 })
const withSettings = (limit: Limit, settings: Record<string, number>): Limit => ({ ...limit, settings: { ...limit.settings, ...settings } })
/** Ends may lie outside the picture, within the setting's own range. */
const outside = (value: number): number => half(clamp(value, -50, 150))
const moved = (at: Place, { from, to }: { from: Place; to: Place }, x: string, y: string): Record<string, number> => ({
  [x]: outside(at.xPercent + to.xPercent - from.xPercent),
  [y]: outside(at.yPercent + to.yPercent - from.yPercent),
})

type LinearGrip = 'start' | 'end' | 'both'

/** The limit after its full end, its faded end, or both were pulled. */
export function dragLinear({ grip, held, ...way }: Drag<LinearGrip, Limit>): Limit {
  const dragged = (which: 'start' | 'end'): Record<string, number> => {
    const [x, y] = [`${which}XPercent`, `${which}YPercent`]
    return grip === which || grip === 'both' ? moved(placeOf(held, x, y), way, x, y) : {}
  }
  return withSettings(held, { ...dragged('start'), ...dragged('end') })
}

type RadialGrip = 'centre' | 'across' | 'down'

/** The limit after its middle or its border was pulled. */
export function dragRadial({ grip, held, ...way }: Drag<RadialGrip, Limit>): Limit {
  const centre = placeOf(held, 'centreXPercent', 'centreYPercent')
  const radius = (distance: number): number => half(clamp(Math.abs(distance), 1, 200))
  if (grip === 'across') return withSettings(held, { radiusXPercent: radius(way.to.xPercent - centre.xPercent) })
  if (grip === 'down') return withSettings(held, { radiusYPercent: radius(way.to.yPercent - centre.yPercent) })
  return withSettings(held, moved(centre, way, 'centreXPercent', 'centreYPercent'))
}

/** A dot where the step is full, a ring where it has faded, both to be pulled; the line between moves them together. */
export function LinearHandles({ limit, mapping, onDraft, onCommit }: Props): ReactNode {
  const grip = useDrag<LinearGrip, Limit>(mapping, limit, {
    follow: (drag) => onDraft(dragLinear(drag)),
    end: (drag) => onCommit(dragLinear(drag)),
  })
  const [a, b] = [
    mapping.toPage(placeOf(limit, 'startXPercent', 'startYPercent')),
    mapping.toPage(placeOf(limit, 'endXPercent', 'endYPercent')),
  ]
  const line = { x1: a.x, y1: a.y, x2: b.x, y2: b.y }
  return (
    <g>
      <line className={styles.hit} {...line} {...grip('both')} />
      <line className={styles.outline} {...line} />
      <line className={styles.line} {...line} />
      <circle className={styles.dot} data-grip="start" cx={a.x} cy={a.y} r={8} {...grip('start')} />
      <circle className={styles.ring} data-grip="end" cx={b.x} cy={b.y} r={8} {...grip('end')} />
    </g>
  )
}

/** The middle moves it, the rings on its border size it; the dashed ellipse is where it begins to fade. */
export function RadialHandles({ limit, mapping, onDraft, onCommit }: Props): ReactNode {
  const grip = useDrag<RadialGrip, Limit>(mapping, limit, {
    follow: (drag) => onDraft(dragRadial(drag)),
    end: (drag) => onCommit(dragRadial(drag)),
  })
  const centre = placeOf(limit, 'centreXPercent', 'centreYPercent')
  const c = mapping.toPage(centre)
  const border = mapping.toPage({
    xPercent: centre.xPercent + (limit.settings.radiusXPercent ?? 0),
    yPercent: centre.yPercent + (limit.settings.radiusYPercent ?? 0),
  })
  const [rx, ry] = [border.x - c.x, border.y - c.y]
  const inner = 1 - (limit.settings.softPercent ?? 0) / 100
  return (
    <g>
      <ellipse className={styles.outline} cx={c.x} cy={c.y} rx={rx} ry={ry} />
      <ellipse className={styles.line} cx={c.x} cy={c.y} rx={rx} ry={ry} />
      <ellipse className={styles.dashed} cx={c.x} cy={c.y} rx={rx * inner} ry={ry * inner} />
      <circle className={styles.dot} data-grip="centre" cx={c.x} cy={c.y} r={8} {...grip('centre')} />
      {[-1, 1].map((side) => (
        <circle key={`x${side}`} className={styles.ring} data-grip="across" cx={c.x + side * rx} cy={c.y} r={7} {...grip('across')} />
      ))}
      {[-1, 1].map((side) => (
        <circle key={`y${side}`} className={styles.ring} data-grip="down" cx={c.x} cy={c.y + side * ry} r={7} {...grip('down')} />
      ))}
    </g>
  )
}
