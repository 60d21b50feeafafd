import { type ReactNode, useState } from 'react'
import { tenth } from '@/base/scale'
import type { Vector3 } from '@/colour/matrix'
import type { RenderedView } from '../worker/protocol'
import styles from './handles.module.css'
import type { Mapping, Place } from './mapping'
import { useDrag } from './use-drag'

/** Half the edge of the patch that is averaged, in pixels of what is shown. */
const patchReach = 4

/** Mean sRGB codes of the patch around a place. */
export function patchAt({ pixels, size }: Pick<RenderedView, 'pixels' | 'size'>, x: number, y: number): Vector3 {
  const [left, right] = [Math.max(0, x - patchReach), Math.min(size.width - 1, x + patchReach)]
  const [top, bottom] = [Math.max(0, y - patchReach), Math.min(size.height - 1, y + patchReach)]
  const sums: [number, number, number] = [0, 0, 0]
  let count = 0
  for (let row = top; row <= bottom; row++)
    for (let column = left; column <= right; column++) {
      for (const channel of [0, 1, 2] as const) sums[channel] += pixels[(row * size.width + column) * 4 + channel] ?? 0
      count++
    }
  return [sums[0] / count, sums[1] / count, sums[2] / count]
}

interface PickProps {
  view: RenderedView
  mapping: Mapping
  onPick(codes: Vector3): void
}

/** A click takes the colour there, averaged over a patch. */
export function PickLayer({ view, mapping, onPick }: PickProps): ReactNode {
  const handlers = useDrag<'pick', null>(mapping, null, {
    follow: () => undefined,
    end: ({ to }) => {
      const { x, y } = mapping.toPage(to)
      const across = Math.floor((x / mapping.shown.width) * view.size.width)
      const down = Math.floor((y / mapping.shown.height) * view.size.height)
      onPick(patchAt(view, across, down))
    },
  })('pick')
  return <rect className={styles.paper} data-testid="pick" width={mapping.shown.width} height={mapping.shown.height} {...handlers} />
}

/** A shorter pull on the page was a slip. */
const shortestLinePx = 20

interface HorizonProps {
  mapping: Mapping
  onAngle(degrees: number): void
}

/** The nearer axis decides whether a line should lie level or stand upright. */
export function angleToLevel(dx: number, dy: number): number {
  const degrees = (Math.atan2(dy, dx) * 180) / Math.PI
  const folded = ((((degrees + 45) % 90) + 90) % 90) - 45
  return tenth(-folded) + 0
}

/** A line drawn along what should be level or upright. */
export function HorizonLayer({ mapping, onAngle }: HorizonProps): ReactNode {
  const [line, setLine] = useState<readonly [Place, Place] | null>(null)
  const pixels = ({ xPercent, yPercent }: Place) => [(xPercent / 100) * mapping.fullSize.width, (yPercent / 100) * mapping.fullSize.height]
  const handlers = useDrag<'line', null>(mapping, null, {
    follow: ({ from, to }) => setLine([from, to]),
    end: ({ from, to }) => {
      setLine(null)
      const [[ax = 0, ay = 0], [bx = 0, by = 0]] = [pixels(from), pixels(to)]
      if (Math.hypot(bx - ax, by - ay) * mapping.scale > shortestLinePx) onAngle(angleToLevel(bx - ax, by - ay))
    },
  })('line')
  const [a, b] = line ? line.map(mapping.toPage) : []
  return (
    <g>
      <rect className={styles.paper} data-testid="horizon" width={mapping.shown.width} height={mapping.shown.height} {...handlers} />
      {a && b && (
        <>
          <line className={styles.outline} x1={a.x} y1={a.y} x2={b.x} y2={b.y} />
          <line className={styles.line} x1={a.x} y1={a.y} x2={b.x} y2={b.y} />
        </>
      )}
    </g>
  )
}
