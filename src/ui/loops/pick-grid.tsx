import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import { fileNameOf } from '@/base/paths'
import type { PickablePicture } from '@/contract/answers'
import { thumbnailUrl } from '../api/client'
import { useSize } from '../bench/use-size'
import { SmallPicture } from '../controls/small-picture'
import styles from './pick.module.css'

const cellWidthPx = 148
const rowHeightPx = 142

interface Props {
  pictures: readonly PickablePicture[]
  picked: ReadonlySet<string>
  onToggle(index: number): void
  /** From where the last tick was to here. */
  onExtend(index: number): void
  onAll(): void
}

/** Small pictures to tick, with the mouse or at the keyboard. Only what is in view is drawn. */
export function PickGrid({ pictures, picked, onToggle, onExtend, onAll }: Props): ReactNode {
  const scroller = useRef<HTMLDivElement>(null)
  const { width } = useSize(scroller, 0)
  const [at, setAt] = useState(0)
  const across = Math.max(1, Math.floor((width - 12) / cellWidthPx))
  const virtual = useVirtualizer({
    count: Math.ceil(pictures.length / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeightPx,
    overscan: 3,
  })
  const wantsFocus = useRef(false)
  const current = Math.min(at, Math.max(0, pictures.length - 1))
  // The place that an arrow led to may only now be drawn.
  useEffect(() => {
    if (!wantsFocus.current) return
    const button = scroller.current?.querySelector<HTMLElement>(`[data-index="${current}"]`)
    if (!button) return
    wantsFocus.current = false
    button.focus()
  })
  const go = (index: number): void => {
    const next = Math.min(Math.max(index, 0), pictures.length - 1)
    wantsFocus.current = true
    setAt(next)
    virtual.scrollToIndex(Math.floor(next / across), { align: 'auto' })
  }
  const moves: Readonly<Record<string, number>> = {
    ArrowLeft: -1,
    ArrowRight: 1,
    ArrowUp: -across,
    ArrowDown: across,
    Home: -pictures.length,
    End: pictures.length,
  }
  const press = (event: KeyboardEvent): void => {
    const by = moves[event.key]
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'a') onAll()
    else if (by !== undefined) {
      const next = Math.min(Math.max(current + by, 0), pictures.length - 1)
      if (event.shiftKey) onExtend(next)
      go(next)
    } else return
    event.preventDefault()
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys come from the buttons within
    <div ref={scroller} className={styles.grid} onKeyDown={press}>
      <ul style={{ height: virtual.getTotalSize() }} aria-label="Pictures to pick">
        {virtual.getVirtualItems().flatMap(({ index: row, start }) =>
          pictures.slice(row * across, (row + 1) * across).map(({ path, relativePath }, column) => {
            const index = row * across + column
            return (
              <li key={path} style={{ transform: `translate(${column * cellWidthPx}px, ${start}px)` }}>
                {/* biome-ignore lint/a11y/useSemanticElements: a native box can't hold a picture */}
                <button
                  type="button"
                  role="checkbox"
                  aria-checked={picked.has(path)}
                  aria-label={relativePath}
                  title={relativePath}
                  data-index={index}
                  tabIndex={index === current ? 0 : -1}
                  onClick={(event) => {
                    setAt(index)
                    if (event.shiftKey) onExtend(index)
                    else onToggle(index)
                  }}
                >
                  <SmallPicture src={thumbnailUrl(path, 160)} alt="" />
                  <span className={styles.tick} aria-hidden="true">
                    {picked.has(path) ? '■' : '□'}
                  </span>
                  <span className={styles.name}>{fileNameOf(relativePath)}</span>
                </button>
              </li>
            )
          }),
        )}
      </ul>
      {pictures.length === 0 && <p className={styles.hint}>No pictures here.</p>}
    </div>
  )
}
