'use client'

import { App } from 'antd'
import { type ReactNode, useCallback, useRef } from 'react'
import { editStep, moveStep, removeStep } from '@/macro/recorder'
import { useShortcuts } from '../shell/shortcuts'
import styles from './bench.module.css'
import { Desk } from './desk'
import { RecordBar, toggleRecording } from './record'
import { Samples } from './samples'
import { Stage } from './stage'
import { shownSteps, useBench } from './store'
import { useBenchSync } from './sync'
import { useRoom } from './use-room'
import { useStagePictures } from './use-stage-pictures'
import { Wire } from './wire'

/** The bench: desk, stage, samples and wire. */
export function BenchPage(): ReactNode {
  const { message } = App.useApp()
  useBenchSync(useCallback((sentence: string) => void message.error(sentence, 6), [message]))
  useBenchShortcuts()
  const box = useRef<HTMLDivElement>(null)
  const room = useRoom(box)
  const pictures = useStagePictures(room)
  const { history, draft, selectedId, upToHere, view } = useBench()
  const selected = shownSteps(history.document, draft).find((step) => step.id === selectedId)
  const cropping = selected?.operation === 'crop' && view.kind === 'fit' && !upToHere ? selected.settings : null
  return (
    <div className={styles.bench}>
      <h1 className="for-readers-only">Bench</h1>
      <RecordBar />
      <div className={styles.middle}>
        <Desk shown={pictures.after} />
        <Stage pictures={pictures} box={box} room={room} cropping={cropping} />
        <Samples />
      </div>
      <Wire beads={pictures.beads} />
    </div>
  )
}

function useBenchShortcuts(): void {
  const bench = useBench()
  const { history, selectedId, commit, set } = bench
  const { document } = history
  const index = document.steps.findIndex((step) => step.id === selectedId)
  const selected = document.steps[index]
  const select = (to: number): void => set({ selectedId: document.steps[Math.min(Math.max(to, 0), document.steps.length - 1)]?.id ?? null })
  useShortcuts(
    {
      undo: bench.undo,
      redo: bench.redo,
      record: toggleRecording,
      addStep: () => set({ adding: true }),
      previousBead: () => select(index - 1),
      nextBead: () => select(index + 1),
      beadEarlier: () => selected && commit(moveStep(document, selected.id, index - 1)),
      beadLater: () => selected && commit(moveStep(document, selected.id, index + 1)),
      switchBead: () => selected && commit(editStep(document, selected.id, { enabled: !selected.enabled })),
      removeBead: () => selected && commit(removeStep(document, selected.id)),
      original: () => set({ holdingOriginal: true }),
      wipe: () => set({ wipe: !bench.wipe }),
      fit: () => set({ view: { kind: 'fit' } }),
      fullSize: () => set({ view: { kind: 'full', centreX: 0.5, centreY: 0.5 } }),
    },
    { original: () => set({ holdingOriginal: false }) },
  )
}
