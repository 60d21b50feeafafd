'use client'

import type { ReactNode } from 'react'
import { formatSize, plainNumber } from '@/base/format'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import type { Vector3 } from '@/colour/matrix'
import styles from './stage.module.css'
import type { StagePictures } from './stage-flow'
import type { RenderedView } from './worker/protocol'

/** Where the pointer is over the picture, as shares of what is shown. */
export interface PointerPlace {
  readonly x: number
  readonly y: number
}

function colourAt(view: RenderedView | null, place: PointerPlace): Vector3 | null {
  if (!view) return null
  const x = Math.min(view.size.width - 1, Math.max(0, Math.floor(place.x * view.size.width)))
  const y = Math.min(view.size.height - 1, Math.max(0, Math.floor(place.y * view.size.height)))
  const at = (y * view.size.width + x) * 4
  return [view.pixels[at] ?? 0, view.pixels[at + 1] ?? 0, view.pixels[at + 2] ?? 0]
}

const triple = (values: Vector3, digits = 0): string => values.map((value) => plainNumber(value, digits)).join(' ')

/** The colour under the pointer, before → after, with its difference; otherwise size and clipped shares. */
export function Readout({ pictures, place }: { pictures: StagePictures; place: PointerPlace | null }): ReactNode {
  const { after, before } = pictures
  const now = place && colourAt(after, place)
  const was = place && colourAt(before, place)
  if (now) {
    const lab = srgb8ToLab(now)
    const wasLab = was && srgb8ToLab(was)
    return (
      <div className={styles.readout}>
        <span>
          RGB {was ? `${triple(was)} → ` : ''}
          {triple(now)}
        </span>
        <span>
          Lab {wasLab ? `${triple(wasLab)} → ` : ''}
          {triple(lab)}
        </span>
        {wasLab && <span>ΔE {deltaE00(wasLab, lab).toFixed(1)}</span>}
      </div>
    )
  }
  if (!after) return <div className={styles.readout} />
  return (
    <div className={styles.readout}>
      <span>{formatSize(after.fullSize)}</span>
      <span>
        clipped: <Clipped name="dark" percent={after.clipped.shadowsPercent} />{' '}
        <Clipped name="bright" percent={after.clipped.highlightsPercent} />
      </span>
    </div>
  )
}

/** Below this, clipped pixels are specular points nobody sees. */
const noticeablePercent = 0.05

function Clipped({ name, percent }: { name: string; percent: number }): ReactNode {
  const much = percent >= noticeablePercent
  return (
    <span className={much ? styles.clipped : undefined}>
      {much ? '▲ ' : ''}
      {name} {percent.toFixed(1)} %
    </span>
  )
}
