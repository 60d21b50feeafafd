import { useVirtualizer } from '@tanstack/react-virtual'
import { type CSSProperties, type RefObject, useRef } from 'react'
import type { Size } from '@/base/geometry'
import { useSize } from '../bench/use-size'
import styles from './tile-places.module.css'

interface TilePlace {
  readonly index: number
  readonly style: CSSProperties
}

interface Tiles {
  /** The element that scrolls. */
  readonly scroller: RefObject<HTMLDivElement | null>
  /** How many lie beside each other. */
  readonly across: number
  /** Those that are in sight, and some around them. */
  readonly places: readonly TilePlace[]
  /** For the list of tiles. */
  readonly list: { readonly className: string | undefined; readonly style: CSSProperties }
  /** Brings the row of a tile into sight. */
  scrollTo(index: number): void
}

/**
 * Tiles of one size in rows, as many as fit beside each other: only those in sight are drawn, however many there are.
 * @param tile with the gap to the next one, in CSS pixels. `inset`: what lies around all of them
 */
export function useTilePlaces(count: number, tile: Size, { inset = 0, overscan = 2 } = {}): Tiles {
  const scroller = useRef<HTMLDivElement>(null)
  const { width } = useSize(scroller, inset)
  const across = Math.max(1, Math.floor(width / tile.width))
  const virtual = useVirtualizer({
    count: Math.ceil(count / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => tile.height,
    overscan,
  })
  const places = virtual.getVirtualItems().flatMap(({ index: row, start }) =>
    Array.from({ length: Math.min(across, count - row * across) }, (_, column) => ({
      index: row * across + column,
      style: { transform: `translate(${column * tile.width}px, ${start}px)` },
    })),
  )
  const scrollTo = (index: number): void => virtual.scrollToIndex(Math.floor(index / across), { align: 'auto' })
  const list = { className: styles.tiles, style: { height: virtual.getTotalSize() } }
  return { scroller, across, places, list, scrollTo }
}
