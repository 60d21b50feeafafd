'use client'

import { type CSSProperties, type ReactNode, useEffect, useRef } from 'react'
import type { Size } from '@/base/geometry'
import { byteAt } from '@/base/numbers'
import styles from './stage.module.css'
import type { Guide } from './store'
import type { RenderedView } from './worker/protocol'

interface PixelProps {
  size: Size
  style: CSSProperties
  label: string
  /** Fills RGBA values; called again when it changes. */
  paint(data: Uint8ClampedArray): void
}

/** A picture worked out on the page from pixels that are there already. */
function PixelLayer({ size, style, label, paint }: PixelProps): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const context = canvas.current?.getContext('2d')
    if (!canvas.current || !context) return
    canvas.current.width = size.width
    canvas.current.height = size.height
    const image = new ImageData(size.width, size.height)
    paint(image.data)
    context.putImageData(image, 0, 0)
  }, [size, paint])
  return <canvas ref={canvas} style={style} className={styles.overlay} role="img" aria-label={label} />
}

interface OverlayProps {
  view: RenderedView
  style: CSSProperties
}

/** Colours of the application: bright ends in copper, dark ones in verdigris. */
const brightMark = [0xd0, 0x6a, 0x38] as const
const darkMark = [0x3f, 0xa8, 0x96] as const

/** Marks pixels with a channel at its end: bright ones where any is, dark ones where all are. */
export function ClippedLayer({ view, style }: OverlayProps): ReactNode {
  const paint = (data: Uint8ClampedArray): void => {
    const { pixels } = view
    for (let i = 0; i < pixels.length; i += 4) {
      const [r, g, b] = [byteAt(pixels, i), byteAt(pixels, i + 1), byteAt(pixels, i + 2)]
      const mark = r === 255 || g === 255 || b === 255 ? brightMark : r + g + b === 0 ? darkMark : undefined
      if (mark) data.set([...mark, 255], i)
    }
  }
  return (
    <PixelLayer size={view.size} style={style} label="Clipped pixels: bright in copper, dark in green" paint={useSteady(paint, view)} />
  )
}

/** Tints where the selected step applies. */
export function LimitLayer({ view, style }: OverlayProps): ReactNode {
  const paint = (data: Uint8ClampedArray): void => {
    const { mask } = view
    mask?.values.forEach((value, i) => {
      data.set([...darkMark, value * 0.62], i * 4)
    })
  }
  return <PixelLayer size={view.mask?.size ?? view.size} style={style} label="Where this step applies" paint={useSteady(paint, view)} />
}

/** Differences are shown this many times as strong, around a middle grey. */
const amplified = 4

/** After less before. */
export function DifferenceLayer({ view, before, style }: OverlayProps & { before: RenderedView }): ReactNode {
  const paint = (data: Uint8ClampedArray): void => {
    const fits = before.pixels.length === view.pixels.length
    for (let i = 0; i < data.length; i++)
      data[i] = i % 4 === 3 ? 255 : fits ? 128 + amplified * (byteAt(view.pixels, i) - byteAt(before.pixels, i)) : 128
  }
  return <PixelLayer size={view.size} style={style} label="Difference, four times as strong" paint={useSteady(paint, view, before)} />
}

/** The same function as long as what it reads is the same. */
function useSteady<T>(work: T, ...reads: readonly unknown[]): T {
  const kept = useRef({ work, reads })
  if (kept.current.reads.some((value, i) => value !== reads[i])) kept.current = { work, reads }
  return kept.current.work
}

/** Shares of the sides at which lines lie. */
const lineShares: Record<'thirds' | 'grid', readonly number[]> = { thirds: [1 / 3, 2 / 3], grid: [1, 2, 3, 4, 5, 6, 7].map((n) => n / 8) }

/** Lines to compose by. */
export function GuideLines({ guide, shown }: { guide: Guide; shown: Size }): ReactNode {
  if (guide === 'none') return null
  const { width, height } = shown
  const lines =
    guide === 'diagonals'
      ? [
          [0, 0, width, height],
          [0, height, width, 0],
        ]
      : lineShares[guide].flatMap((share) => [
          [share * width, 0, share * width, height],
          [0, share * height, width, share * height],
        ])
  return (
    <svg className={styles.guides} width={width} height={height} aria-hidden="true">
      {lines.map(([x1, y1, x2, y2]) => (
        <g key={`${x1} ${y1} ${y2}`}>
          <line className={styles.guideShade} x1={x1} y1={y1} x2={x2} y2={y2} />
          <line x1={x1} y1={y1} x2={x2} y2={y2} />
        </g>
      ))}
    </svg>
  )
}
