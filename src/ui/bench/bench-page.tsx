'use client'

import { App } from 'antd'
import { type ReactNode, useCallback, useEffect, useMemo, useRef } from 'react'
import { editStep, moveStep } from '@/macros/recorder'
import { useShortcuts } from '../shell/shortcuts'
import { copiedText, copyPicked, duplicatePicked, pasteText, removePicked } from './bead-actions'
import styles from './bench.module.css'
import { Desk } from './desk'
import { Guide } from './guide'
import { PictureBar } from './keep-for-picture'
import { dropFiles } from './lay-samples'
import { openStrip } from './open-strip'
import { PainterContext } from './painter-context'
import { RecordBar } from './record'
import { Samples } from './samples'
import { stageScope } from './scope'
import { Stage } from './stage'
import { zoomed } from './stage-strip'
import { shownSteps, useBench, useBenchParts } from './store'
import { useBenchSync } from './sync'
import { narrower, TestStrip, wider } from './test-strip'
import { useToggleRecording } from './use-recording'
import { useSize } from './use-size'
import { useStagePictures } from './use-stage-pictures'
import { Wire } from './wire'

/** The bench: desk, stage, samples and wire. */
export function BenchPage(): ReactNode {
  const { message } = App.useApp()
  useBenchSync(useCallback((sentence: string) => void message.error(sentence, 6), [message]))
  useBenchShortcuts()
  useCancelledPulls()
  useClipboard(useCallback((sentence: string) => void message.info(sentence, 4), [message]))
  const box = useRef<HTMLDivElement>(null)
  const room = useSize(box)
  const bench = useBenchParts('history', 'pageDraft', 'selectedId', 'upToHere', 'view', 'tool', 'showsLimit', 'compare', 'strip')
  const steps = shownSteps(bench.history.document, bench.pageDraft)
  const scope = stageScope(steps, bench)
  const roomForOne = useMemo(
    () => (bench.compare === 'beside' && !scope.cropping ? { width: Math.floor(room.width / 2) - 1, height: room.height } : room),
    [room, bench.compare, scope.cropping],
  )
  const { pictures, painter, askStrip } = useStagePictures(roomForOne, scope)
  const { problem } = pictures
  useEffect(() => {
    if (problem) void message.error(problem, 8)
  }, [problem, message])
  const step = steps.find((candidate) => candidate.id === bench.selectedId)
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a short way for “Open a picture”
    <div
      className={styles.bench}
      onDragOver={(event) => event.dataTransfer.types.includes('Files') && event.preventDefault()}
      onDrop={(event) => {
        const files = [...event.dataTransfer.files]
        if (files.length === 0) return
        event.preventDefault()
        void dropFiles(files).then((problems) => problems.map((problem) => message.error(problem, 8)))
      }}
    >
      <h1 className="for-readers-only">Bench</h1>
      <RecordBar />
      <PictureBar />
      <div className={styles.middle}>
        <Desk shown={pictures.after} />
        <PainterContext value={painter}>
          <Stage pictures={pictures} box={box} room={roomForOne} scope={scope} step={step}>
            {bench.strip && step && (
              <TestStrip step={step} steps={steps} strip={bench.strip} room={room} pictures={pictures.strip} onWish={askStrip} />
            )}
            <Guide />
          </Stage>
        </PainterContext>
        <Samples />
      </div>
      <Wire beads={pictures.beads} times={pictures.times} />
    </div>
  )
}

/** The system's copy and paste, for beads. Text fields keep their own. */
function useClipboard(say: (sentence: string) => void): void {
  useEffect(() => {
    const isText = (target: EventTarget | null): boolean => target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(target.tagName)
    const copy = (event: ClipboardEvent): void => {
      const text = copiedText()
      if (isText(event.target) || !text || window.getSelection()?.toString()) return
      event.preventDefault()
      event.clipboardData?.setData('text/plain', text)
      say(copyPicked() ?? '')
    }
    const paste = (event: ClipboardEvent): void => {
      if (isText(event.target)) return
      const said = pasteText(event.clipboardData?.getData('text/plain') ?? '')
      if (said) say(said)
    }
    document.addEventListener('copy', copy)
    document.addEventListener('paste', paste)
    return () => {
      document.removeEventListener('copy', copy)
      document.removeEventListener('paste', paste)
    }
  }, [say])
}

/** Where the system takes the pointer away (a call, a gesture of its own), what was being pulled is as it was. */
function useCancelledPulls(): void {
  const setDraft = useBench((bench) => bench.setDraft)
  useEffect(() => {
    const drop = (): void => setDraft(null)
    window.addEventListener('pointercancel', drop)
    return () => window.removeEventListener('pointercancel', drop)
  }, [setDraft])
}

function useBenchShortcuts(): void {
  const bench = useBenchParts('history', 'selectedId', 'strip', 'compare', 'showsClipped', 'view', 'undo', 'redo', 'commit', 'set')
  const { history, selectedId, commit, set } = bench
  const toggleRecording = useToggleRecording()
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
      removeBead: removePicked,
      duplicateBead: duplicatePicked,
      deliverThis: () => set({ deliversOne: true }),
      testStrip: openStrip,
      putDown: () => set({ tool: null, strip: null }),
      closerTogether: () => bench.strip && set({ strip: { ...bench.strip, span: narrower(bench.strip.span) } }),
      furtherApart: () => bench.strip && set({ strip: { ...bench.strip, span: wider(bench.strip.span) } }),
      original: () => set({ holdingOriginal: true }),
      wipe: () => set({ compare: bench.compare === 'wipe' ? 'none' : 'wipe' }),
      clipped: () => set({ showsClipped: !bench.showsClipped }),
      fit: () => set({ view: { kind: 'fit' } }),
      fullSize: () => set({ view: zoomed(bench.view, 1) }),
      doubleSize: () => set({ view: zoomed(bench.view, 2) }),
    },
    { original: () => set({ holdingOriginal: false }) },
  )
}
