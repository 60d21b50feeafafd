'use client'

import { LeftOutlined, RightOutlined } from '@ant-design/icons'
import { Button, Modal, Segmented, Select } from 'antd'
import { type ReactNode, useEffect, useState } from 'react'
import { formatBytes } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import type { RunResultRow } from '@/contract/answers'
import { resultUrl, thumbnailUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import styles from './runs.module.css'

type Zoom = 'fit' | 'true'

interface Props {
  /** The pictures that are looked through, in their order. */
  results: readonly RunResultRow[]
  itemId: number
  onGo(itemId: number): void
  onClose(): void
}

/** One result, large: before and after side by side, or what was delivered pixel for pixel. Arrow keys go on and back. */
export function ResultView({ results, itemId, onGo, onClose }: Props): ReactNode {
  const [zoom, setZoom] = useState<Zoom>('fit')
  const [chosen, setChosen] = useState(0)
  const seen = results.filter(({ results: targets }) => targets.some(({ bytes }) => bytes !== null))
  const at = seen.findIndex((row) => row.itemId === itemId)
  const row = seen[at]
  const delivered = row?.results.filter(({ bytes }) => bytes !== null) ?? []
  const target = delivered[Math.min(chosen, delivered.length - 1)]
  useEffect(() => {
    const go = (event: KeyboardEvent): void => {
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
      const next = by === undefined ? undefined : seen[at + by]
      // In the true size the arrows scroll.
      if (next && zoom === 'fit') onGo(next.itemId)
    }
    window.addEventListener('keydown', go)
    return () => window.removeEventListener('keydown', go)
  }, [seen, at, zoom, onGo])
  if (!row || !target) return null
  const step = (by: number): void => {
    const next = seen[at + by]
    if (next) onGo(next.itemId)
  }
  return (
    <Modal
      open
      onCancel={onClose}
      footer={null}
      width="calc(100vw - 48px)"
      style={{ top: 24 }}
      title={
        <div className={styles.viewHead}>
          <Button icon={<LeftOutlined />} aria-label="Previous picture" disabled={at <= 0} onClick={() => step(-1)} />
          <Button icon={<RightOutlined />} aria-label="Next picture" disabled={at >= seen.length - 1} onClick={() => step(1)} />
          <b>{fileNameOf(target.path)}</b>
          <span className={styles.viewFacts}>
            {row.sizeBefore} → {target.width} × {target.height} · {formatBytes(target.bytes ?? 0)} · {at + 1} of {seen.length}
          </span>
          {delivered.length > 1 && (
            <Select
              size="small"
              aria-label="Delivery"
              className={styles.viewDelivery}
              value={Math.min(chosen, delivered.length - 1)}
              options={delivered.map(({ path }, value) => ({ value, label: path.split('/').slice(-2).join('/') }))}
              onChange={setChosen}
            />
          )}
          <Segmented<Zoom>
            size="small"
            aria-label="Zoom"
            value={zoom}
            options={[
              { value: 'fit', label: 'Before and after' },
              { value: 'true', label: 'After at 100 %' },
            ]}
            onChange={setZoom}
          />
        </div>
      }
    >
      {zoom === 'fit' ? (
        <div className={styles.viewPair}>
          <figure>
            <SmallPicture src={thumbnailUrl(row.sourcePath, 1280)} alt="Before" />
            <figcaption>Before</figcaption>
          </figure>
          <figure>
            <SmallPicture src={resultUrl(target.id, 1280)} alt="After" />
            <figcaption>After</figcaption>
          </figure>
        </div>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard
        <section className={styles.viewTrue} aria-label="The delivered picture, pixel for pixel" tabIndex={0}>
          <SmallPicture src={resultUrl(target.id)} alt="After, pixel for pixel" style={{ width: (target.width ?? 0) / devicePixelRatio }} />
        </section>
      )}
    </Modal>
  )
}
