'use client'

import { line, pointer, range } from 'd3'
import { type KeyboardEvent, type PointerEvent, type ReactNode, useRef, useState } from 'react'
import { monotoneCurve } from '@/colour/monotone-curve'
import { type CurvePoints, pointLimits } from '@/operations'
import { histogramSize } from './histogram'

interface Props {
  points: CurvePoints
  onDraft(points: CurvePoints): void
  onCommit(points: CurvePoints): void
}

export const curveHeight = 200
const { width } = histogramSize
const highest = pointLimits.max
/** Dragged this far out of the frame, a point is taken off. */
const takeOffPx = 28

const across = (input: number): number => (input / highest) * width
const up = (output: number): number => curveHeight - (output / highest) * curveHeight
const held = (value: number, lowest: number, highestHere: number): number => Math.round(Math.min(highestHere, Math.max(lowest, value)))

/** The points with one of them elsewhere, kept between its neighbours. */
function movedTo(points: CurvePoints, index: number, input: number, output: number): CurvePoints {
  const lowest = index === 0 ? pointLimits.min : (points[index - 1]?.[0] ?? 0) + pointLimits.minGap
  const highestHere = index === points.length - 1 ? highest : (points[index + 1]?.[0] ?? highest) - pointLimits.minGap
  return points.map((point, i) => (i === index ? [held(input, lowest, highestHere), held(output, pointLimits.min, highest)] : point))
}

const without = (points: CurvePoints, index: number): CurvePoints =>
  points.length > pointLimits.minCount ? points.filter((_, i) => i !== index) : points

/** The points with a new one, and its index; where there is no room, as they are. */
function withPoint(points: CurvePoints, input: number, output: number): { points: CurvePoints; index: number } {
  const near = points.findIndex(([x]) => Math.abs(x - input) < 6)
  if (near >= 0 || points.length >= pointLimits.maxCount) return { points, index: near }
  const index = points.findIndex(([x]) => x > input)
  const place = index < 0 ? points.length : index
  return { points: points.toSpliced(place, 0, [held(input, 0, highest), held(output, 0, highest)]), index: place }
}

/** The points of a curve on the histogram of its input. Click to add, drag to move, drag out or Delete to take off. */
export function CurveHandles({ points, onDraft, onCommit }: Props): ReactNode {
  const layer = useRef<SVGGElement>(null)
  const [dragged, setDragged] = useState<{ index: number; rest: CurvePoints } | null>(null)
  const curve = monotoneCurve(points)
  const path =
    line<number>(
      (input) => across(input),
      (input) => up(Math.min(highest, Math.max(0, curve(input)))),
    )(range(0, 256)) ?? ''

  const place = (event: PointerEvent): readonly [input: number, output: number, outside: boolean] => {
    const [x, y] = pointer(event, layer.current)
    const outside = x < -takeOffPx || y < -takeOffPx || x > width + takeOffPx || y > curveHeight + takeOffPx
    return [(x / width) * highest, (1 - y / curveHeight) * highest, outside]
  }
  const press = (event: PointerEvent): void => {
    const [input, output] = place(event)
    const added = withPoint(points, input, output)
    if (added.index < 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    setDragged({ index: added.index, rest: added.points })
    onDraft(added.points)
  }
  const drag = (event: PointerEvent, done: boolean): void => {
    if (!dragged) return
    const [input, output, outside] = place(event)
    const next = outside ? without(dragged.rest, dragged.index) : movedTo(dragged.rest, dragged.index, input, output)
    if (done) {
      setDragged(null)
      onCommit(next)
    } else onDraft(next)
  }
  const steer = (event: KeyboardEvent, index: number): void => {
    const step = event.shiftKey ? 10 : 1
    const [input = 0, output = 0] = points[index] ?? []
    const moves: Record<string, CurvePoints> = {
      ArrowLeft: movedTo(points, index, input - step, output),
      ArrowRight: movedTo(points, index, input + step, output),
      ArrowUp: movedTo(points, index, input, output + step),
      ArrowDown: movedTo(points, index, input, output - step),
      Delete: without(points, index),
      Backspace: without(points, index),
    }
    const next = moves[event.key]
    if (!next) return
    event.preventDefault()
    event.stopPropagation()
    onCommit(next)
  }

  return (
    <g
      ref={layer}
      style={{ cursor: 'crosshair', touchAction: 'none' }}
      onPointerDown={press}
      onPointerMove={(event) => drag(event, false)}
      onPointerUp={(event) => drag(event, true)}
      onPointerCancel={() => setDragged(null)}
    >
      <rect width={width} height={curveHeight} fill="transparent" />
      {[0.25, 0.5, 0.75].map((share) => (
        <line key={share} x1={0} x2={width} y1={share * curveHeight} y2={share * curveHeight} stroke="var(--hairline)" />
      ))}
      <line x1={0} y1={curveHeight} x2={width} y2={0} stroke="var(--hairline)" strokeDasharray="3 3" />
      <path d={path} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      {points.map(([input, output], index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a point is known by its place in the order; its values change while it is dragged
        <g key={index} transform={`translate(${across(input)} ${up(output)})`}>
          <circle
            r={5}
            fill="var(--paper)"
            stroke="var(--copper)"
            strokeWidth={2}
            tabIndex={0}
            role="slider"
            aria-label={`Point ${index + 1} of ${points.length}`}
            aria-valuenow={output}
            aria-valuemin={0}
            aria-valuemax={highest}
            aria-valuetext={`${input} becomes ${output}`}
            onKeyDown={(event) => steer(event, index)}
          />
        </g>
      ))}
    </g>
  )
}
