'use client'

import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { memo, type ReactNode, useEffect, useRef } from 'react'
import { unitsKept } from '@/base/format'
import type { WireStep } from '@/macros/history'
import { stepName, stepSetting } from '@/macros/step'
import { useIsOfPictureOnly } from './keep-for-picture'
import { useBench } from './store'
import { whatTimesAre } from './time-words'
import styles from './wire.module.css'
import type { BeadPicture } from './worker/protocol'

interface Props {
  stored: WireStep
  number: number
  selected: boolean
  picture: BeadPicture | undefined
  /** Picked together with the selected one. */
  picked: boolean
  /** What it takes, in words, where that is shown instead of its setting. */
  taken: string | undefined
  onSelect(id: string, together: boolean): void
}

/** One step on the wire: its picture, the operation's name and its setting in words. Hollow while it is not kept. */
export const Bead = memo(function Bead({ stored, number, selected, picked, picture, taken, onSelect }: Props): ReactNode {
  const draft = useBench(({ pageDraft }) => (pageDraft?.stepId === stored.id ? pageDraft : null))
  const step = draft ? { ...stored, ...draft.edit } : stored
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: step.id })
  const isOfPictureOnly = useIsOfPictureOnly(step)
  const state = [
    isOfPictureOnly ? 'this picture only' : null,
    step.kept ? null : 'not kept',
    step.enabled ? null : 'off',
    picture?.isBroken ? 'can’t be shown' : null,
  ]
    .filter(Boolean)
    .join(', ')
  return (
    <button
      ref={setNodeRef}
      type="button"
      className={styles.bead}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 2 : undefined }}
      {...attributes}
      {...listeners}
      aria-pressed={selected}
      aria-label={`${number}. ${stepName(step)}, ${taken ?? stepSetting(step)}${state ? `, ${state}` : ''}`}
      data-bead={step.id}
      data-hollow={!step.kept || undefined}
      data-picked={picked || undefined}
      data-off={!step.enabled || undefined}
      onClick={(event) => onSelect(step.id, event.ctrlKey || event.metaKey || event.shiftKey)}
    >
      <BeadImage picture={picture} />
      {step.limit && step.limit.length > 0 && <span className={styles.mark} data-limit title="Only on a part of the picture" />}
      {step.when.length > 0 && <span className={styles.mark} title="Only for some pictures" />}
      {step.open && step.open.length > 0 && <span className={styles.mark} data-open title="Asks before a run" />}
      {isOfPictureOnly && (
        <span className={styles.own} title="This picture only">
          ◆
        </span>
      )}
      {step.note && <span className={styles.noted} title={step.note} />}
      {picture?.isBroken && (
        <span className={styles.broken} title="This step can’t be shown">
          ✕
        </span>
      )}
      <span className={styles.words}>
        <b>{stepName(step)}</b>
        <span title={taken && whatTimesAre}>{step.enabled ? (taken ?? unitsKept(stepSetting(step))) : 'off'}</span>
      </span>
    </button>
  )
})

export function BeadImage({ picture }: { picture: BeadPicture | undefined }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const element = canvas.current
    if (!element || !picture) return
    element.width = picture.size.width
    element.height = picture.size.height
    element.getContext('2d')?.putImageData(new ImageData(picture.pixels, picture.size.width, picture.size.height), 0, 0)
  }, [picture])
  return (
    <span className={styles.image}>
      <canvas ref={canvas} data-drawn={picture ? true : undefined} />
    </span>
  )
}
