import { useVirtualizer } from '@tanstack/react-virtual'
import { type MouseEvent, memo, type ReactNode, useEffect, useMemo, useRef } from 'react'
import type { ProofPicture } from '@/contract/answers'
import { changesNothing, type TouchUp } from '@/jobs/touch-up'
import { proofPictureUrl, resultUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import { useLatest } from '../controls/use-latest'
import { useTilePlaces } from '../controls/use-tile-places'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'

/** What a picture's small copy is marked with, and the word for it. */
interface TileMark {
  readonly shape: string
  readonly word: string
}
const aside: TileMark = { shape: '✕', word: 'set aside' }
const touched: TileMark = { shape: '◆', word: 'touched up' }
const seen: TileMark = { shape: '●', word: 'looked at' }

function markOf(touchUp: TouchUp): TileMark | undefined {
  if (touchUp.setAside) return aside
  if (!changesNothing(touchUp)) return touched
  return touchUp.lookedAt ? seen : undefined
}

interface TileProps {
  src: string
  relativePath: string
  mark: TileMark | undefined
  /** What stands out, in words, one line each. */
  marks: string
  isPicked: boolean
  isInHand: boolean
  isAside: boolean
  index: number
  onOpen(index: number): void
  onPick(index: number): void
}

/** One picture of the set, small, as it was or will be delivered, with its marks. */
const Tile = memo(function Tile(props: TileProps): ReactNode {
  const { src, relativePath, mark, marks, isPicked, isInHand, isAside, index, onOpen, onPick } = props
  const click = (event: MouseEvent): void => (event.ctrlKey || event.metaKey ? onPick : onOpen)(index)
  return (
    <button
      type="button"
      aria-label={[relativePath, mark?.word, isPicked && 'picked', ...marks.split('\n')].filter(Boolean).join(', ')}
      aria-pressed={isInHand}
      title={`${relativePath}\n${marks}`.trim()}
      data-picked={isPicked || undefined}
      data-aside={isAside || undefined}
      onClick={click}
    >
      <SmallPicture src={src} alt="" />
      <span className={styles.marks} aria-hidden="true">
        {isPicked && <span>■</span>}
        {marks !== '' && <span>▲</span>}
        {mark && <span>{mark.shape}</span>}
      </span>
    </button>
  )
})

/** A set is looked through by going on: most of its tiles stay as they are with every step. */
function useTiles(state: ProofState, open: (index: number) => void): (picture: ProofPicture, index: number) => ReactNode {
  const latest = useLatest({ state, open })
  const [onOpen, onPick] = useMemo(
    () => [
      (index: number): void => latest.current.open(index),
      (index: number): void => {
        const picture = latest.current.state.pictures[index]
        if (picture) latest.current.state.togglePicked(picture.sourcePath)
      },
    ],
    [latest.current.state.togglePicked, latest.current.state.pictures, latest.current.open],
  )
  const { proof, touchUps, picked, at } = state
  return (picture, index) => {
    const { sourcePath, relativePath, delivered } = picture
    const touchUp = touchUps.of(sourcePath)
    const isDelivered = proof.run !== null && delivered !== null && state.isAsDelivered(picture)
    return (
      <Tile
        src={
          isDelivered ? resultUrl(delivered.resultId, tileEdge) : proofPictureUrl(proof, sourcePath, touchUps.settledVersion(sourcePath))
        }
        mark={markOf(touchUp)}
        marks={state.marksOf(picture).join('\n')}
        isPicked={picked.has(sourcePath)}
        isInHand={index === at}
        isAside={touchUp.setAside}
        {...{ relativePath, index, onOpen, onPick }}
      />
    )
  }
}

const stripWidth = 92
/** Small pictures of a strip are about as large as these; one size serves both strip and grid. */
const tileEdge = 320

/** The whole set in its order, small; the picture in hand stays in sight. */
export function ProofStrip({ state }: { state: ProofState }): ReactNode {
  const strip = useRef<HTMLDivElement>(null)
  const tile = useTiles(state, state.go)
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
                {tile(picture, index)}
              </li>
            )
          )
        })}
      </ul>
    </div>
  )
}

/** A place in the grid, its name included. */
const gridTile = { width: 196, height: 170 }
/** What the style sheet leaves around the grid. */
const gridInset = 8

/** The whole set as a grid: what to look at next is seen at once. */
export function ProofGrid({ state, onOpen }: { state: ProofState; onOpen(index: number): void }): ReactNode {
  const tile = useTiles(state, onOpen)
  const { pictures, at } = state
  const { scroller, across, list, places, scrollTo } = useTilePlaces(pictures.length, gridTile, { inset: gridInset })
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another picture in hand, or another number in a row, brings one into sight
  useEffect(() => scrollTo(at), [at, across])
  return (
    <div ref={scroller} className={styles.grid}>
      <ul {...list} aria-label="The set">
        {places.map(({ index, style }) => {
          const picture = pictures[index]
          return (
            picture && (
              <li key={picture.sourcePath} style={style}>
                {tile(picture, index)}
                <span className={styles.quiet}>{picture.relativePath}</span>
              </li>
            )
          )
        })}
      </ul>
    </div>
  )
}
