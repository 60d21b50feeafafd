import { useVirtualizer } from '@tanstack/react-virtual'
import { type MouseEvent, type ReactNode, useEffect, useRef } from 'react'
import type { ProofPicture } from '@/contract/answers'
import { changesNothing, type TouchUp } from '@/jobs/touch-up'
import { proofPictureUrl, resultUrl } from '../api/client'
import { useSize } from '../bench/use-size'
import { SmallPicture } from '../controls/small-picture'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'

/** What a picture's small copy is marked with, and the word for it. */
function markOf(touchUp: TouchUp): { readonly shape: string; readonly word: string } | undefined {
  if (touchUp.setAside) return { shape: '✕', word: 'set aside' }
  if (!changesNothing(touchUp)) return { shape: '◆', word: 'touched up' }
  return touchUp.lookedAt ? { shape: '●', word: 'looked at' } : undefined
}

interface TileProps {
  state: ProofState
  picture: ProofPicture
  index: number
  edge: number
  onOpen(index: number): void
}

/** One picture of the set, small, as it was or will be delivered, with its marks. */
function Tile({ state, picture, index, edge, onOpen }: TileProps): ReactNode {
  const { sourcePath, relativePath, delivered } = picture
  const { proof, touchUps } = state
  const mark = markOf(touchUps.of(sourcePath))
  const marks = state.marksOf(picture)
  const isPicked = state.picked.has(sourcePath)
  const isDelivered = proof.run !== null && delivered !== null && state.isAsDelivered(picture)
  const src = isDelivered ? resultUrl(delivered.resultId, edge) : proofPictureUrl(proof, sourcePath, touchUps.settledVersion(sourcePath))
  const click = (event: MouseEvent): void => {
    if (event.ctrlKey || event.metaKey) state.togglePicked(sourcePath)
    else onOpen(index)
  }
  return (
    <button
      type="button"
      aria-label={[relativePath, mark?.word, isPicked && 'picked', ...marks].filter(Boolean).join(', ')}
      aria-pressed={index === state.at}
      title={[relativePath, ...marks].join('\n')}
      data-picked={isPicked || undefined}
      data-aside={touchUps.of(sourcePath).setAside || undefined}
      onClick={click}
    >
      <SmallPicture src={src} alt="" />
      <span className={styles.marks} aria-hidden="true">
        {isPicked && <span>■</span>}
        {marks.length > 0 && <span>▲</span>}
        {mark && <span>{mark.shape}</span>}
      </span>
    </button>
  )
}

const stripWidth = 92
/** Small pictures of a strip are about as large as these; one size serves both strip and grid. */
const tileEdge = 320

/** The whole set in its order, small; the picture in hand stays in sight. */
export function ProofStrip({ state }: { state: ProofState }): ReactNode {
  const strip = useRef<HTMLDivElement>(null)
  const { pictures, at } = state
  const virtual = useVirtualizer({
    count: pictures.length,
    getScrollElement: () => strip.current,
    estimateSize: () => stripWidth,
    horizontal: true,
    overscan: 6,
  })
  useEffect(() => virtual.scrollToIndex(at, { align: 'center' }), [virtual, at])
  return (
    <div ref={strip} className={styles.set}>
      <ul style={{ width: virtual.getTotalSize() }} aria-label="The set">
        {virtual.getVirtualItems().map(({ index, start }) => {
          const picture = pictures[index]
          return (
            picture && (
              <li key={picture.sourcePath} style={{ transform: `translateX(${start}px)` }}>
                <Tile state={state} picture={picture} index={index} edge={tileEdge} onOpen={state.go} />
              </li>
            )
          )
        })}
      </ul>
    </div>
  )
}

/** Sides of a place in the grid, its name included. */
const gridWidth = 196
const gridHeight = 170

/** The whole set as a grid: what to look at next is seen at once. */
export function ProofGrid({ state, onOpen }: { state: ProofState; onOpen(index: number): void }): ReactNode {
  const grid = useRef<HTMLDivElement>(null)
  const { width } = useSize(grid, 0)
  const { pictures, at } = state
  const across = Math.max(1, Math.floor((width - 16) / gridWidth))
  const virtual = useVirtualizer({
    count: Math.ceil(pictures.length / across),
    getScrollElement: () => grid.current,
    estimateSize: () => gridHeight,
    overscan: 2,
  })
  const row = Math.floor(at / across)
  useEffect(() => virtual.scrollToIndex(row, { align: 'auto' }), [virtual, row])
  return (
    <div ref={grid} className={styles.grid}>
      <ul style={{ height: virtual.getTotalSize() }} aria-label="The set">
        {virtual.getVirtualItems().flatMap(({ index: line, start }) =>
          pictures.slice(line * across, (line + 1) * across).map((picture, column) => (
            <li key={picture.sourcePath} style={{ transform: `translate(${column * gridWidth}px, ${start}px)` }}>
              <Tile state={state} picture={picture} index={line * across + column} edge={tileEdge} onOpen={onOpen} />
              <span className={styles.quiet}>{picture.relativePath}</span>
            </li>
          )),
        )}
      </ul>
    </div>
  )
}
