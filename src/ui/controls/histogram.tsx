'use client'

import { area, curveMonotoneX, max, scaleLinear, scaleSqrt } from 'd3'
import { memo, type ReactNode, useMemo } from 'react'
import type { Histogram as Counts } from '../bench/worker/protocol'
import styles from './controls.module.css'

export const histogramSize = { width: 264, height: 84 } as const

const channels = [
  { name: 'red', from: 0, colour: '#d0574c' },
  { name: 'green', from: 256, colour: '#4f9a57' },
  { name: 'blue', from: 512, colour: '#5b7fcb' },
] as const

/** Codes come in eights, so that single spikes of 8-bit sources do not hide the shape. The two ends stand alone. */
const bins = 64

function binned(counts: Counts, from: number): number[] {
  return Array.from({ length: bins }, (_, bin) => {
    const first = from + (bin * 256) / bins
    return counts.subarray(first, first + 256 / bins).reduce((sum, value) => sum + value, 0)
  })
}

const { width } = histogramSize

interface Props {
  counts: Counts | null
  /** In the drawing's own units, of which it is 264 wide. */
  height?: number
  children?: ReactNode
}

/** Red, green and blue distribution of a picture; counts by their square root, so that small tails show. */
export const Histogram = memo(function Histogram({ counts, height = histogramSize.height, children }: Props): ReactNode {
  const paths = useMemo(() => {
    if (!counts) return []
    const series = channels.map((channel) => binned(counts, channel.from))
    // The clipped ends would flatten everything else: they may run over the top.
    const highest = max(series.flatMap((values) => values.slice(1, -1))) ?? 1
    const x = scaleLinear([0, bins - 1], [0, width])
    const y = scaleSqrt([0, Math.max(1, highest)], [height, 4]).clamp(true)
    const shape = area<number>()
      .x((_, i) => x(i))
      .y0(height)
      .y1(y)
      .curve(curveMonotoneX)
    return series.map((values) => shape(values) ?? '')
  }, [counts, height])
  return (
    <svg
      className={styles.histogram}
      viewBox={`0 0 ${width} ${height}`}
      // A picture holds nothing that can be pulled.
      role={children ? 'group' : 'img'}
      aria-label="Histogram: how many pixels have each brightness, for red, green and blue"
    >
      {[0.25, 0.5, 0.75].map((share) => (
        <line key={share} x1={share * width} x2={share * width} y1={0} y2={height} stroke="var(--hairline)" />
      ))}
      {paths.map((path, i) => (
        <path key={channels[i]?.name} d={path} fill={channels[i]?.colour} fillOpacity={0.32} stroke={channels[i]?.colour} strokeWidth={1} />
      ))}
      {children}
    </svg>
  )
})
