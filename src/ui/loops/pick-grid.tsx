import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import { fileNameOf } from '@/base/paths'
import type { PickablePicture } from '@/contract/answers'
import { thumbnailUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import { useTilePlaces } from '../controls/use-tile-places'
import styles from './pick.module.css'

const tile = { width: 148, height: 142 }

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
  const { scroller, across, list, places, scrollTo } = useTilePlaces(pictures.length, tile, { overscan: 3 })
  const [at, setAt] = useState(0)
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
    scrollTo(next)
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
      <ul {...list} aria-label="Pictures to pick">
        {places.map(({ index, style }) => {
          const picture = pictures[index]
          if (!picture) return null
          const { path, relativePath } = picture
          return (
            <li key={path} style={style}>
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
        })}
      </ul>
      {pictures.length === 0 && <p className={styles.hint}>No pictures here.</p>}
    </div>
  )
}
