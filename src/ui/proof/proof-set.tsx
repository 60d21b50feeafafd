import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useRef } from 'react'
import type { Proof } from '@/contract/answers'
import { changesNothing, type TouchUp } from '@/jobs/touch-up'
import { thumbnailUrl } from '../api/client'
import { SmallPicture } from '../controls/small-picture'
import styles from './proof.module.css'

interface Props {
  proof: Proof
  at: number
  of(path: string): TouchUp
  onGo(index: number): void
}

const tileWidth = 92

/** What a picture's small copy is marked with, and the word for it. */
function markOf(touchUp: TouchUp): { readonly shape: string; readonly word: string } | undefined {
  if (touchUp.setAside) return { shape: '✕', word: 'set aside' }
  if (!changesNothing(touchUp)) return { shape: '◆', word: 'touched up' }
  return touchUp.lookedAt ? { shape: '●', word: 'looked at' } : undefined
}

/** The whole set in its order, small; the picture in hand stays in sight. */
export function ProofSet({ proof, at, of, onGo }: Props): ReactNode {
  const strip = useRef<HTMLDivElement>(null)
  const { pictures } = proof
  const virtual = useVirtualizer({
    count: pictures.length,
    getScrollElement: () => strip.current,
    estimateSize: () => tileWidth,
    horizontal: true,
    overscan: 6,
  })
  useEffect(() => virtual.scrollToIndex(at, { align: 'center' }), [virtual, at])
  return (
    <div ref={strip} className={styles.set}>
      <ul style={{ width: virtual.getTotalSize() }} aria-label="The set">
        {virtual.getVirtualItems().map(({ index, start }) => {
          const picture = pictures[index]
          if (!picture) return null
          const mark = markOf(of(picture.sourcePath))
          return (
            <li key={picture.sourcePath} style={{ transform: `translateX(${start}px)` }}>
              <button
                type="button"
                aria-label={[picture.relativePath, mark?.word].filter(Boolean).join(', ')}
                aria-pressed={index === at}
                onClick={() => onGo(index)}
              >
                <SmallPicture src={thumbnailUrl(picture.sourcePath, 160)} alt="" />
                {mark && (
                  <span className={styles.mark} aria-hidden="true">
                    {mark.shape}
                  </span>
                )}
              </button>
            </li>
          )
        })}
      </ul>
    </div>
  )
}
