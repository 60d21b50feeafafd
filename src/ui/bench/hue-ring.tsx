'use client'

import { arc, pointer } from 'd3'
import { type PointerEvent, type ReactNode, useRef } from 'react'
import type { Settings } from '@/operations'
import styles from './desk.module.css'

interface Props {
  bands: readonly string[]
  settings: Settings
  /** Name of the band in hand, as its group is called. */
  group: string
  onGroup(group: string): void
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

const size = 188
const middle = size / 2
/** The ring of hues; a dot on it means no change of chroma. */
const ringRadius = 64
const ringWidth = 16
/** Distance from the ring to where chroma is at −100 % and +100 %. */
const chromaReach = 24
const maxHueDegrees = 60
const segments = 72
const radians = Math.PI / 180

export const groupOf = (band: string): string => `${band[0]?.toUpperCase()}${band.slice(1)}`
/** 0° is at the right, as on the a axis of OKLab; angles go counter-clockwise. */
const place = (degrees: number, radius: number) => ({
  x: middle + Math.cos(degrees * radians) * radius,
  y: middle - Math.sin(degrees * radians) * radius,
})
const shorter = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180

const segment = arc<number>()
  .innerRadius(ringRadius - ringWidth / 2)
  .outerRadius(ringRadius + ringWidth / 2)
  .startAngle((degrees) => (90 - degrees - 180 / segments - 0.5) * radians)
  .endAngle((degrees) => (90 - degrees + 180 / segments + 0.5) * radians)

/** The hue bands around a ring of hues: turn a dot to shift its hue, pull it out or in for chroma; a click takes the band in hand. */
export function HueRing({ bands, settings, group, onGroup, onDraft, onCommit }: Props): ReactNode {
  const ring = useRef<SVGSVGElement>(null)
  const value = (band: string, suffix: string): number => Number(settings[`${band}${suffix}`])
  const moved = (band: string, event: PointerEvent): Settings => {
    const [x, y] = pointer(event, ring.current)
    const [dx, dy] = [x - middle, middle - y]
    const hue = Math.round(shorter(Math.atan2(dy, dx) / radians - value(band, 'CentreDegrees')))
    const chroma = Math.round(((Math.hypot(dx, dy) - ringRadius) / chromaReach) * 100)
    return {
      ...settings,
      [`${band}HueDegrees`]: Math.min(maxHueDegrees, Math.max(-maxHueDegrees, hue)),
      [`${band}ChromaPercent`]: Math.min(100, Math.max(-100, chroma)),
    }
  }
  return (
    <svg ref={ring} className={styles.ring} viewBox={`0 0 ${size} ${size}`} aria-hidden="true">
      <g transform={`translate(${middle} ${middle})`}>
        {Array.from({ length: segments }, (_, i) => (i * 360) / segments).map((degrees) => (
          <path key={degrees} d={segment(degrees) ?? ''} fill={`oklch(0.72 0.12 ${degrees})`} />
        ))}
      </g>
      {bands.map((band) => {
        const centre = value(band, 'CentreDegrees')
        const at = place(centre + value(band, 'HueDegrees'), ringRadius + (value(band, 'ChromaPercent') / 100) * chromaReach)
        const home = place(centre, ringRadius)
        const isTaken = groupOf(band) === group
        return (
          <g key={band}>
            <line x1={home.x} y1={home.y} x2={at.x} y2={at.y} stroke="var(--ink)" strokeWidth={1.5} />
            <circle
              cx={at.x}
              cy={at.y}
              r={isTaken ? 8.5 : 7}
              fill={`oklch(${0.7 + value(band, 'LightnessPercent') / 500} 0.13 ${centre + value(band, 'HueDegrees')})`}
              stroke={isTaken ? 'var(--copper)' : 'var(--panel)'}
              strokeWidth={isTaken ? 3 : 2}
              style={{ cursor: 'grab', touchAction: 'none' }}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId)
                onGroup(groupOf(band))
              }}
              onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && onDraft(moved(band, event))}
              onPointerUp={(event) => onCommit(moved(band, event))}
            >
              <title>{groupOf(band)}</title>
            </circle>
          </g>
        )
      })}
      <text x={middle} y={middle - 2} textAnchor="middle" className={styles.ringName}>
        {group}
      </text>
      <text x={middle} y={middle + 15} textAnchor="middle" className={styles.ringWords}>
        {describeBand(settings, group)}
      </text>
    </svg>
  )
}

const signed = (value: number, unit: string): string => (value === 0 ? '' : `${value > 0 ? '+' : '−'}${Math.abs(value)}${unit}`)

function describeBand(settings: Settings, group: string): string {
  const band = group.toLowerCase()
  const parts = [signed(Number(settings[`${band}HueDegrees`]), '°'), signed(Number(settings[`${band}ChromaPercent`]), ' %')].filter(Boolean)
  return parts.join('  ') || 'as it is'
}
