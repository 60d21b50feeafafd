import { useEffect, useRef, useState } from 'react'
import type { Size } from '@/core/geometry'
import { findOperation } from '@/operations'
import { type BenchView, shownSteps, useBench } from './store'
import { BenchClient } from './worker/client'
import type { BeadPicture, RenderedView, View } from './worker/protocol'

export interface StagePictures {
  /** After the steps, or after the step that is looked at. */
  readonly after: RenderedView | null
  /** The same part of the picture with nothing but the steps that shape it. */
  readonly before: RenderedView | null
  /** By step id; the source under `source`. */
  readonly beads: ReadonlyMap<string, BeadPicture>
}

const nothing: StagePictures = { after: null, before: null, beads: new Map() }

/** How long the wire waits for further edits before its small pictures are made anew. */
const beadDelayMs = 120

const isShape = (operationId: string): boolean => findOperation(operationId)?.group === 'geometry'

/** Keeps the stage's pictures and the beads in step with the bench. One worker for the life of the page. */
export function useStagePictures(room: Size): StagePictures {
  const [pictures, setPictures] = useState<StagePictures>(nothing)
  const client = useRef<BenchClient>(null)
  const bench = useBench()
  const { history, draft, selectedId, upToHere, sample, view, wipe, holdingOriginal } = bench
  const { set } = bench
  const path = sample?.path

  useEffect(() => {
    const made = new BenchClient({
      opened: ({ path, fullSize, facts }) => set({ sample: { path, fullSize, facts, error: null } }),
      failed: ({ path, sentence }) => {
        setPictures(nothing)
        set({ sample: { path, fullSize: null, facts: null, error: sentence } })
      },
      rendered: (lane, view) => {
        if (view.path === useBench.getState().sample?.path) setPictures((before) => ({ ...before, [lane]: view }))
      },
      beads: (list) => setPictures((before) => ({ ...before, beads: new Map(list.map((picture) => [picture.stepId, picture])) })),
    })
    client.current = made
    return () => made.close()
  }, [set])

  useEffect(() => {
    if (!path) return
    setPictures(nothing)
    client.current?.open(path)
  }, [path])

  const steps = shownSteps(history.document, draft)
  const selected = steps.findIndex((step) => step.id === selectedId)
  const cropping = selected >= 0 && steps[selected]?.operation === 'crop' && view.kind === 'fit' && !upToHere
  // The frame of a crop is drawn on the picture in front of it.
  const shown = cropping ? steps.slice(0, selected) : upToHere && selected >= 0 ? steps.slice(0, selected + 1) : steps

  useEffect(() => {
    if (!path || room.width < 2) return
    client.current?.render('after', {
      path,
      steps: shown.filter((step) => findOperation(step.operation)),
      focus: cropping ? shown.length : Math.max(0, selected),
      view: viewFor(view, room),
      histogram: true,
    })
  }, [path, room, view, JSON.stringify(shown), selected, cropping])

  const shaping = shown.filter((step) => isShape(step.operation))
  useEffect(() => {
    if (!path || room.width < 2) return
    client.current?.render('before', { path, steps: shaping, focus: shaping.length, view: viewFor(view, room), histogram: false })
  }, [path, room, view, JSON.stringify(shaping), wipe || holdingOriginal])

  const beadKey = JSON.stringify(history.document.steps)
  useEffect(() => {
    if (!path) return
    const known = history.document.steps.filter((step) => findOperation(step.operation))
    const timer = setTimeout(() => client.current?.beads({ path, steps: known }), beadDelayMs)
    return () => clearTimeout(timer)
  }, [path, beadKey])

  return pictures
}

function viewFor(view: BenchView, room: Size): View {
  const [widthPx, heightPx] = [room.width * devicePixelRatio, room.height * devicePixelRatio]
  return view.kind === 'fit' ? { kind: 'fit', widthPx, heightPx } : { kind: 'region', centreX: view.centreX, centreY: view.centreY, widthPx, heightPx }
}

