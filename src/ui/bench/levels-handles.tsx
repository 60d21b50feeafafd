'use client'

import { pointer } from 'd3'
import { type PointerEvent, type ReactNode, useRef } from 'react'
import { keysOf } from '@/base/schema'
import type { Settings } from '@/operations'
import { histogramSize } from '../controls/histogram'

interface Props {
  settings: Settings
  /** `all`, `red`, `green` or `blue`. */
  prefix: string
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
}

type Handle = 'Black' | 'Gamma' | 'White'
const { width, height } = histogramSize
const minSpan = 1

/** The code that a gamma brings to the middle. */
const middleOf = (black: number, white: number, gamma: number): number => black + (white - black) * 0.5 ** gamma

/** Black, middle and white of a levels step, as marks on the histogram of its input. */
export function LevelsHandles({ settings, prefix, onDraft, onCommit }: Props): ReactNode {
  const layer = useRef<SVGGElement>(null)
  const value = (handle: Handle): number => Number(settings[`${prefix}${handle}`])
  const [black, white] = [value('Black'), value('White')]
  const places: Record<Handle, number> = { Black: black, Gamma: middleOf(black, white, value('Gamma')), White: white }

  const moved = (handle: Handle, event: PointerEvent): Settings => {
    const code = Math.min(255, Math.max(0, (pointer(event, layer.current)[0] / width) * 255))
    return { ...settings, [`${prefix}${handle}`]: setting(handle, code) }
  }
  const setting = (handle: Handle, code: number): number => {
    if (handle === 'Black') return Math.round(Math.min(code, white - minSpan))
    if (handle === 'White') return Math.round(Math.max(code, black + minSpan))
    const share = Math.min(0.999, Math.max(0.001, (code - black) / Math.max(minSpan, white - black)))
    return Number(Math.min(9.99, Math.max(0.1, Math.log(share) / Math.log(0.5))).toFixed(2))
  }

  return (
    <g ref={layer}>
      <rect width={width} height={height} fill="transparent" />
      {keysOf(places).map((handle) => (
        <g
          key={handle}
          transform={`translate(${(places[handle] / 255) * width} 0)`}
          style={{ cursor: 'ew-resize', touchAction: 'none' }}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && onDraft(moved(handle, event))}
          onPointerUp={(event) => onCommit(moved(handle, event))}
        >
          <title>{handle}</title>
          <rect x={-7} width={14} height={height} fill="transparent" />
          <line
            y1={0}
            y2={height}
            stroke="var(--ink)"
            strokeWidth={handle === 'Gamma' ? 1 : 1.5}
            strokeDasharray={handle === 'Gamma' ? '3 3' : undefined}
          />
          <circle
            cy={height - 6}
            r={4.5}
            fill={handle === 'Black' ? '#000' : handle === 'White' ? '#fff' : '#888'}
            stroke="var(--copper)"
            strokeWidth={1.5}
          />
        </g>
      ))}
    </g>
  )
}
