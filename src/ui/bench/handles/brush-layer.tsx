import { type PointerEvent, type ReactNode, useState } from 'react'
import { longEdge } from '@/base/geometry'
import { clamp, tenth } from '@/base/scale'
import { type Limit, limitBounds, type Stroke } from '@/macros/limit'
import type { Brush } from '../store'
import styles from './handles.module.css'
import type { Mapping } from './mapping'
import { useDrag } from './use-drag'

interface Props {
  limit: Limit
  brush: Brush
  mapping: Mapping
  onCommit(limit: Limit): void
}

type Point = readonly [xPercent: number, yPercent: number]

/** Points closer than this share of the brush's diameter add nothing. */
const minStep = 0.08

/** The brush: a pull becomes one stroke, seen at once and computed when it is let go. */
export function BrushLayer({ limit, brush, mapping, onCommit }: Props): ReactNode {
  const [points, setPoints] = useState<readonly Point[]>([])
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null)
  const diameter = (brush.sizePercent / 100) * longEdge(mapping.fullSize) * mapping.scale

  const toPage = ([xPercent, yPercent]: Point) => mapping.toPage({ xPercent, yPercent })
  const extended = (to: Point): readonly Point[] => {
    const last = points.at(-1)
    if (!last) return [to]
    const [a, b] = [toPage(last), toPage(to)]
    return Math.hypot(a.x - b.x, a.y - b.y) < minStep * diameter || points.length >= limitBounds.points ? points : [...points, to]
  }
  const pointOf = (place: { xPercent: number; yPercent: number }): Point => [
    tenth(clamp(place.xPercent, -50, 150)),
    tenth(clamp(place.yPercent, -50, 150)),
  ]
  const handlers = useDrag<'stroke', null>(mapping, null, {
    start: ({ from }) => setPoints([pointOf(from)]),
    follow: ({ to }) => setPoints(extended(pointOf(to))),
    end: ({ to }) => {
      const stroke: Stroke = { ...brush, points: extended(pointOf(to)) }
      setPoints([])
      if (limit.strokes.length < limitBounds.strokes) onCommit({ ...limit, strokes: [...limit.strokes, stroke] })
    },
    cancel: () => setPoints([]),
  })('stroke')
  const follow = (event: PointerEvent<Element>): void => {
    const bounds = event.currentTarget.getBoundingClientRect()
    setPointer({ x: event.clientX - bounds.left, y: event.clientY - bounds.top })
    handlers.onPointerMove(event)
  }
  const path = points.map(toPage)
  return (
    <g>
      <rect
        className={styles.paper}
        data-testid="brush"
        width={mapping.shown.width}
        height={mapping.shown.height}
        {...handlers}
        onPointerMove={follow}
        onPointerLeave={() => setPointer(null)}
      />
      {path.length > 0 && (
        <polyline
          className={brush.erases ? styles.erasing : styles.stroke}
          points={[...path, ...(path.length === 1 ? path : [])].map(({ x, y }) => `${x},${y}`).join(' ')}
          strokeWidth={diameter}
        />
      )}
      {pointer && (
        <>
          <circle className={styles.outline} cx={pointer.x} cy={pointer.y} r={diameter / 2} />
          <circle className={styles.line} cx={pointer.x} cy={pointer.y} r={diameter / 2} />
          <circle className={styles.dashed} cx={pointer.x} cy={pointer.y} r={(diameter / 2) * (1 - brush.softnessPercent / 100)} />
        </>
      )}
    </g>
  )
}
