'use client'

import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { formatBytes } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import type { RunResultRow } from '@/contract/answers'
import { resultUrl, thumbnailUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import { ResultView } from './result-view'
import styles from './runs.module.css'
import { itemMarks, marksOf } from './words'

const cellWidthPx = 176
const rowHeightPx = 186

/** Every result as a small picture with its state; only what is in view is drawn. */
export function ResultsGrid({ results }: { results: readonly RunResultRow[] }): ReactNode {
  const scroller = useRef<HTMLDivElement>(null)
  const [columns, setColumns] = useState(6)
  const [viewing, setViewing] = useState<number | null>(null)
  useEffect(() => {
    const element = scroller.current
    if (!element) return
    const observer = new ResizeObserver(() => setColumns(Math.max(1, Math.floor((element.clientWidth - 40) / cellWidthPx))))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const virtual = useVirtualizer({
    count: Math.ceil(results.length / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeightPx,
    overscan: 4,
  })
  return (
    <div ref={scroller} className={styles.grid}>
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => (
          <ul
            key={item.key}
            className={styles.gridRow}
            style={{ transform: `translateY(${item.start}px)`, gridTemplateColumns: `repeat(${columns}, 1fr)` }}
          >
            {results.slice(item.index * columns, (item.index + 1) * columns).map((result) => (
              <ResultCell key={result.itemId} result={result} onView={setViewing} />
            ))}
          </ul>
        ))}
      </div>
      {results.length === 0 && <p className={styles.missing}>No pictures here.</p>}
      {viewing !== null && <ResultView results={results} itemId={viewing} onGo={setViewing} onClose={() => setViewing(null)} />}
    </div>
  )
}

function ResultCell({ result, onView }: { result: RunResultRow; onView(itemId: number): void }): ReactNode {
  const mark = itemMarks[result.state]
  const delivered = result.results.find((target) => target.bytes !== null)
  const marks = marksOf(result)
  const name = delivered ? fileNameOf(delivered.path) : result.relativePath
  return (
    <li className={styles.cell} data-state={result.state}>
      <button
        type="button"
        className={styles.cellPicture}
        disabled={!delivered}
        onClick={() => onView(result.itemId)}
        aria-label={[name, mark.word, ...marks].join(', ')}
      >
        {delivered ? (
          <SmallPicture src={resultUrl(delivered.id, 320)} />
        ) : result.state === 'failed' ? (
          <span aria-hidden="true">✕</span>
        ) : (
          <SmallPicture src={thumbnailUrl(result.sourcePath, 160)} className={styles.notYet} />
        )}
      </button>
      <div className={styles.cellName} title={result.error ?? name}>
        <span style={{ color: mark.colour }} aria-hidden="true">
          {mark.shape}
        </span>{' '}
        {name}
      </div>
      <div className={styles.cellFacts} title={result.error ?? (marks.join(', ') || undefined)} data-marked={marks.length > 0 || undefined}>
        {marks.length > 0
          ? `▲ ${marks.join(', ')}`
          : delivered
            ? `${delivered.width} × ${delivered.height} · ${formatBytes(delivered.bytes ?? 0)}`
            : (result.error?.replace(`${result.sourcePath} `, '') ?? mark.word)}
      </div>
    </li>
  )
}
