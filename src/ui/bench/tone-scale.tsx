'use client'

import { pointer, scaleLinear } from 'd3'
import { type PointerEvent, type ReactNode, useRef } from 'react'
import type { DeskPart, Settings } from '@/operations'
import styles from '../controls/controls.module.css'

interface Props {
  scale: Extract<DeskPart, { kind: 'toneScale' }>
  settings: Settings
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

const width = 264
const height = 104
const stripHeight = 10
const maxEv = 3
const x = scaleLinear([0, 1], [0, width])
const y = scaleLinear([maxEv, -maxEv], [8, height - stripHeight - 8]).clamp(true)

const greyOf = (lightness: number): string => `oklch(${lightness} 0 0)`

/** The five tone bands over a scale of lightness: pull a dot up to lift its tones, down to lower them. */
export function ToneScale({ scale, settings, onDraft, onCommit }: Props): ReactNode {
  const layer = useRef<SVGSVGElement>(null)
  const moved = (setting: string, event: PointerEvent): Settings => ({
    ...settings,
    [setting]: Math.round(y.invert(pointer(event, layer.current)[1]) * 20) / 20,
  })
  const samples = Array.from({ length: 67 }, (_, i) => i / 66)
  const path = samples.map((lightness, i) => `${i === 0 ? 'M' : 'L'}${x(lightness)},${y(scale.stopsAt(settings, lightness))}`).join('')
  return (
    <svg ref={layer} className={styles.histogram} viewBox={`0 0 ${width} ${height}`} aria-hidden="true">
      {samples.slice(1).map((lightness, i) => (
        <rect
          key={lightness}
          x={x(samples[i] ?? 0)}
          y={height - stripHeight}
          width={width / 66 + 0.5}
          height={stripHeight}
          fill={greyOf(lightness)}
        />
      ))}
      <line x1={0} x2={width} y1={y(0)} y2={y(0)} stroke="var(--hairline)" />
      <path d={path} fill="none" stroke="var(--wire)" strokeWidth={2} />
      {scale.bands.map(({ name, setting, lightness }) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the sliders below do the same by keyboard
        <g
          key={name}
          transform={`translate(${x(lightness)} 0)`}
          style={{ cursor: 'ns-resize', touchAction: 'none' }}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && onDraft(moved(setting, event))}
          onPointerUp={(event) => onCommit(moved(setting, event))}
          onDoubleClick={() => onCommit({ ...settings, [setting]: 0 })}
        >
          <title>{name}</title>
          <rect x={-14} width={28} height={height - stripHeight} fill="transparent" />
          <line y1={y(0)} y2={y(Number(settings[setting]))} stroke="var(--wire)" strokeWidth={1} />
          <circle cy={y(Number(settings[setting]))} r={6} fill={greyOf(lightness)} stroke="var(--copper)" strokeWidth={2} />
        </g>
      ))}
    </svg>
  )
}
