'use client'

import { useVirtualizer } from '@tanstack/react-virtual'
import { Button, Spin } from 'antd'
import { type ReactNode, useRef } from 'react'
import { counted, formatBytes } from '@/base/format'
import type { ForeseenPicture, PreflightView, Remedy } from '@/contract/answers'
import type { Delivery } from '@/jobs/delivery'
import type { Loop } from '@/jobs/loop'
import { thumbnailUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import styles from './loops.module.css'
import { PagesPreview } from './pages-preview'
import { Problems } from './problems'

const rowHeightPx = 58

interface Props {
  check: PreflightView | undefined
  checking: boolean
  deliveries: readonly Delivery[]
  loopName: string
  onMend(change: Partial<Loop>): void
  onRemedy(does: Remedy['does']): void
  /** To look the pictures through as they will be delivered. */
  onProof(): void
}

/** What will happen, picture by picture, before anything happens. */
export function ForeseenList({ check, checking, deliveries, loopName, onMend, onRemedy, onProof }: Props): ReactNode {
  const scroller = useRef<HTMLDivElement>(null)
  const rows = check?.pictures ?? []
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeightPx,
    overscan: 12,
  })
  return (
    <section className={styles.foreseen} aria-label="What will happen">
      <div className={styles.foreseenHead}>
        <h2>What will happen</h2>
        {checking && <Spin size="small" />}
        {check && (
          <span className={styles.quiet}>
            {describeWork(check)}
            {check.totals.estimatedBytes > 0 && `, about ${formatBytes(check.totals.estimatedBytes)}`}
            {check.totals.freeBytes !== null && ` of ${formatBytes(check.totals.freeBytes)} free`}
          </span>
        )}
        <Button
          className={styles.toProof}
          disabled={rows.length === 0}
          onClick={onProof}
          title="Look all pictures through as they will be delivered, and put single ones right"
        >
          Proof
        </Button>
      </div>
      <Problems list={check?.problems.filter((problem) => problem.area === 'pictures') ?? []} onMend={onMend} onRemedy={onRemedy} />
      <PagesPreview deliveries={deliveries} check={check} loopName={loopName} />
      {check && check.notShown > 0 && (
        <p className={styles.quiet}>
          The first {rows.length.toLocaleString('en-GB')} are listed, whatever is wrong before all else;{' '}
          {check.notShown.toLocaleString('en-GB')} more go the same way.
        </p>
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <section ref={scroller} className={styles.foreseenScroll} aria-label="Pictures in the order of the run" tabIndex={0}>
        <ul style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index]
            return row && <ForeseenRow key={row.sourcePath} row={row} top={item.start} />
          })}
        </ul>
        {check && rows.length === 0 && <p className={styles.nothing}>Nothing yet: choose a folder with pictures on the left.</p>}
      </section>
    </section>
  )
}

/** `12 files to deliver, 12 pictures on pages`. */
function describeWork({ filesToDeliver, onPages }: PreflightView): string {
  const files = filesToDeliver > 0 || onPages === 0 ? `${counted(filesToDeliver, 'file')} to deliver` : ''
  return [files, onPages > 0 && `${counted(onPages, 'picture')} on pages`].filter(Boolean).join(', ')
}

function ForeseenRow({ row, top }: { row: ForeseenPicture; top: number }): ReactNode {
  const [target, ...more] = row.targets
  return (
    <li
      className={styles.foreseenRow}
      style={{ transform: `translateY(${top}px)`, height: rowHeightPx }}
      data-error={row.error !== null || undefined}
    >
      {row.error ? (
        <span className={styles.noPicture} aria-hidden="true">
          ✕
        </span>
      ) : (
        <SmallPicture src={thumbnailUrl(row.sourcePath, 160)} />
      )}
      <div className={styles.foreseenNames}>
        <div className={styles.foreseenName}>
          <code>{row.relativePath}</code>
          {target && (
            <span>
              <span aria-hidden="true">→ </span>
              {target.captions ? 'on a page' : <code>{target.name}</code>}
              {more.length > 0 && (
                <span className={styles.quiet} title={more.map(({ name, size }) => `${name} (${size.width} × ${size.height})`).join(', ')}>
                  {' '}
                  and {more.length} more
                </span>
              )}
            </span>
          )}
        </div>
        {row.remark && (
          <div className={row.error ? styles.failed : styles.remark}>
            {row.error ? row.remark.replace(`${row.sourcePath} `, 'This file ') : row.remark}
          </div>
        )}
      </div>
      {target && row.sizeBefore && (
        <span className={styles.sizes}>
          {row.sizeBefore.width} × {row.sizeBefore.height} → {target.size.width} × {target.size.height}
        </span>
      )}
    </li>
  )
}
