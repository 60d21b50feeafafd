import { Button, Select } from 'antd'
import { brush, extent, scaleLinear, select } from 'd3'
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { shortNumber } from '@/base/format'
import { keysOf } from '@/base/schema'
import { siblingsBand, type TraitAxisId, traitAxes } from '@/pixels/trait-axes'
import { useSize } from '../bench/use-size'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'

const margin = { left: 44, right: 12, top: 8, bottom: 24 } as const
const axisOptions = keysOf(traitAxes).map((value) => ({ value, label: traitAxes[value].label }))

interface Point {
  readonly path: string
  readonly name: string
  readonly index: number
  readonly x: number
  readonly y: number
  readonly marks: readonly string[]
}

/** Each picture a point, by what was measured on it. A part that is brushed is all that is looked through then. */
export function SpreadPlot({ state }: { state: ProofState }): ReactNode {
  const [across, setAcross] = useState<TraitAxisId>('lightness')
  const [up, setUp] = useState<TraitAxisId>('warmth')
  const [brushed, setBrushed] = useState<readonly string[]>([])
  const plot = useRef<HTMLDivElement>(null)
  const layer = useRef<SVGGElement>(null)
  const { width, height } = useSize(plot, 0)
  const points = state.pictures.flatMap((picture, index): Point[] => {
    const traits = state.traitsOf(picture)
    const [x, y] = [traits && traitAxes[across].of(traits), traits && traitAxes[up].of(traits)]
    if (x === undefined || x === null || y === undefined || y === null) return []
    return [{ path: picture.sourcePath, name: picture.relativePath, index, x, y, marks: state.marksOf(picture) }]
  })
  const xScale = useScale(
    points.map(({ x }) => x),
    [margin.left, Math.max(margin.left + 1, width - margin.right)],
  )
  const yScale = useScale(
    points.map(({ y }) => y),
    [Math.max(margin.top + 1, height - margin.bottom), margin.top],
  )
  const bands = {
    x: siblingsBand(
      points.map(({ x }) => x),
      traitAxes[across],
    ),
    y: siblingsBand(
      points.map(({ y }) => y),
      traitAxes[up],
    ),
  }

  const latest = useRef({ points, xScale, yScale })
  latest.current = { points, xScale, yScale }
  useEffect(() => {
    if (!layer.current || width === 0) return
    const brushing = brush<null>()
      .extent([
        [margin.left, margin.top],
        [width - margin.right, height - margin.bottom],
      ])
      .on('end', ({ selection }: { selection: [[number, number], [number, number]] | null }) => {
        const { points: all, xScale: x, yScale: y } = latest.current
        if (!selection) return setBrushed([])
        const [[x0, y0], [x1, y1]] = selection
        setBrushed(
          all.filter((point) => x(point.x) >= x0 && x(point.x) <= x1 && y(point.y) >= y0 && y(point.y) <= y1).map(({ path }) => path),
        )
      })
    const drawn = select<SVGGElement, null>(layer.current)
    drawn.call(brushing)
    return () => void drawn.selectAll('*').remove()
  }, [width, height])

  const waiting = state.pictures.length - points.length
  const clamp = (scale: typeof xScale, value: number): number => {
    const [from = 0, to = 0] = scale.range()
    return Math.min(Math.max(scale(value), Math.min(from, to)), Math.max(from, to))
  }
  return (
    <div className={styles.spread}>
      <div className={styles.axes}>
        <div className={styles.axis}>
          <span>Across</span>
          <Select<TraitAxisId> size="small" aria-label="Across" value={across} options={axisOptions} onChange={setAcross} />
        </div>
        <div className={styles.axis}>
          <span>Up</span>
          <Select<TraitAxisId> size="small" aria-label="Up" value={up} options={axisOptions} onChange={setUp} />
        </div>
        <span className={styles.quiet}>
          {brushed.length > 0
            ? `${brushed.length.toLocaleString('en-GB')} in the frame`
            : waiting > 0
              ? `${waiting.toLocaleString('en-GB')} still to be measured`
              : 'Drag a frame over a part of it. Shaded: where siblings lie.'}
        </span>
        <div className={styles.buttons}>
          <Button size="small" disabled={brushed.length === 0} onClick={() => state.narrow(brushed)}>
            Show only these
          </Button>
          <Button size="small" disabled={brushed.length === 0} onClick={() => state.pick(brushed)}>
            Pick these
          </Button>
        </div>
      </div>
      <div ref={plot} className={styles.plot}>
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={`The spread of ${points.length} pictures by ${traitAxes[across].label} and ${traitAxes[up].label}`}
        >
          {bands.x && bands.y && (
            <rect
              className={styles.band}
              x={clamp(xScale, bands.x[0])}
              width={clamp(xScale, bands.x[1]) - clamp(xScale, bands.x[0])}
              y={clamp(yScale, bands.y[1])}
              height={clamp(yScale, bands.y[0]) - clamp(yScale, bands.y[1])}
            />
          )}
          {xScale.ticks(6).map((tick) => (
            <g key={`x${tick}`} transform={`translate(${xScale(tick)},0)`}>
              <line y1={margin.top} y2={height - margin.bottom} />
              <text y={height - 8} textAnchor="middle">
                {shortNumber(tick)}
              </text>
            </g>
          ))}
          {yScale.ticks(4).map((tick) => (
            <g key={`y${tick}`} transform={`translate(0,${yScale(tick)})`}>
              <line x1={margin.left} x2={width - margin.right} />
              <text x={margin.left - 6} dy="0.35em" textAnchor="end">
                {shortNumber(tick)}
              </text>
            </g>
          ))}
          <g ref={layer} />
          {points.map((point) => (
            // biome-ignore lint/a11y/noStaticElementInteractions: strip, grid and keys go to every picture, too
            <path
              key={point.path}
              className={styles.point}
              data-here={point.index === state.at || undefined}
              data-picked={state.picked.has(point.path) || undefined}
              transform={`translate(${xScale(point.x)},${yScale(point.y)})`}
              d={point.marks.length > 0 ? 'M0,-6L6,5L-6,5Z' : 'M-4,0A4,4 0 1 0 4,0A4,4 0 1 0 -4,0Z'}
              onClick={() => state.go(point.index)}
            >
              <title>{[point.name, ...point.marks].join('\n')}</title>
            </path>
          ))}
        </svg>
      </div>
    </div>
  )
}

/** From the smallest to the largest, with a little room around. */
function useScale(values: readonly number[], [from, to]: readonly [number, number]) {
  const [low = 0, high = 1] = extent(values)
  return useMemo(() => {
    const room = Math.max((high - low) * 0.06, 1e-3)
    return scaleLinear([low - room, high + room], [from, to])
  }, [low, high, from, to])
}
