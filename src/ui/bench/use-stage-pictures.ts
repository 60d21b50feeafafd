import { startTransition, useCallback, useEffect, useRef, useState } from 'react'
import type { Size } from '@/base/geometry'
import { newStep, type Step } from '@/macros/step'
import { findOperation } from '@/operations'
import { awaits, paintNow } from './paint-now'
import type { Scope } from './scope'
import { type BenchView, shownSteps, useBench, useBenchParts } from './store'
import type { StripWish } from './test-strip'
import { densityFor, followers, judgeOfPace } from './while-held'
import { BenchClient } from './worker/client'
import type { BeadPicture, RenderedView, StripPicture, View } from './worker/protocol'

export interface StagePictures {
  /** After the steps, or after the step that is looked at. */
  readonly after: RenderedView | null
  /** The same part of the picture with nothing but the steps that shape it. */
  readonly before: RenderedView | null
  /** By step id; the source under `source`. */
  readonly beads: ReadonlyMap<string, BeadPicture>
  /** The cells of a test strip, in the order they were asked for. */
  readonly strip: readonly StripPicture[]
  /** Why the newest picture could not be made, in words. */
  readonly problem: string | null
}

const nothing: StagePictures = { after: null, before: null, beads: new Map(), strip: [], problem: null }

/** How long the wire waits for further edits before its small pictures are made anew. */
const beadDelayMs = 120

/** Answers for a picture that was taken off the bench meanwhile are late. */
const isOnBench = (path: string): boolean => useBench.getState().sample?.path === path

/** What a step does to shape and size, as steps: nothing for most. */
function shapeOf(step: Step): Step[] {
  const operation = findOperation(step.operation)
  if (operation?.group === 'geometry') return [step]
  const alone = operation?.sizeAlone?.(step.settings)
  return alone ? [{ ...newStep(alone.operation, step.id, alone.settings), enabled: step.enabled, when: step.when }] : []
}

/** Keeps the stage's pictures and the beads in step with the bench. One worker for the life of the page. */
export function useStagePictures(room: Size, scope: Scope): StagePictures & { askStrip(wish: StripWish): void } {
  const [pictures, setPictures] = useState<StagePictures>(nothing)
  const client = useRef<BenchClient>(null)
  const follow = useRef(
    followers(
      (lane, view) => {
        if (isOnBench(view.path)) startTransition(() => setPictures((before) => ({ ...before, [lane]: view })))
      },
      (view) => client.current?.giveBack(view),
    ),
  )
  const judge = useRef(judgeOfPace())
  const setProblem = useRef((problem: string | null) =>
    setPictures((before) => (before.problem === problem ? before : { ...before, problem })),
  ).current
  const [restMs, setRestMs] = useState(0)
  const { history, pageDraft, sample, view, showsLimit, tool, set } = useBenchParts(
    'history',
    'pageDraft',
    'sample',
    'view',
    'showsLimit',
    'tool',
    'set',
  )
  const path = sample?.path

  useEffect(() => {
    const made = new BenchClient({
      opened: ({ path, fullSize, facts }) => isOnBench(path) && set({ sample: { path, fullSize, facts, error: null } }),
      failed: ({ path, isOpen, sentence }) => {
        if (!isOnBench(path)) return
        // What was shown stays: only this one could not be made.
        if (isOpen) return setProblem(sentence)
        setPictures(nothing)
        set({ sample: { path, fullSize: null, facts: null, error: sentence } })
      },
      rendered: (lane, view) => {
        if (!isOnBench(view.path)) return
        setProblem(null)
        const { draft: held, showsClipped, compare } = useBench.getState()
        const isHeld = held !== null
        const isPainted = isHeld && paintNow(lane, view)
        const hasLayers = view.mask !== null || showsClipped || compare === 'difference'
        follow.current(lane, view, isPainted && !hasLayers)
        if (lane === 'after') setRestMs((before) => judge.current(before, view, isHeld))
      },
      beads: (list) => setPictures((before) => ({ ...before, beads: new Map(list.map((picture) => [picture.stepId, picture])) })),
      strip: (strip) => setPictures((before) => ({ ...before, strip })),
    })
    client.current = made
    return () => made.close()
  }, [set, setProblem])

  useEffect(() => {
    if (!path) return
    setPictures(nothing)
    client.current?.open(path)
  }, [path])

  const steps = shownSteps(history.document, pageDraft)
  const { end, focus: inHand, cropping } = scope
  const shown = useSame(stepsUpTo(steps, end))
  const shaping = useSame(shown.flatMap(shapeOf))
  const kept = useSame(history.document.steps.filter((step) => findOperation(step.operation)))
  const focus = cropping ? shown.length : inHand
  const mask = showsLimit || tool?.kind === 'brush'

  const heldDensity = pageDraft === null ? undefined : densityFor(restMs)
  const ask = useCallback(
    (steps: readonly Step[]): void => {
      if (path && room.width > 1 && client.current) {
        const wish = { path, steps, focus, view: viewFor(view, room), heldDensity, histogram: true, mask }
        awaits('after', client.current.render('after', wish))
      }
    },
    [path, room, view, focus, heldDensity, mask],
  )
  const asked = useRef<readonly [typeof ask, string]>(undefined)
  useEffect(() => {
    // Where a control is held, its value may be ahead of the page.
    const { history: now, draft } = useBench.getState()
    const newest = draft === null ? shown : stepsUpTo(shownSteps(now.document, draft), end)
    const steps = JSON.stringify(newest)
    if (asked.current?.[0] === ask && asked.current[1] === steps) return
    asked.current = [ask, steps]
    ask(newest)
  }, [ask, shown, end])
  // The next values of a control that is held go to the worker at once; the page follows meanwhile.
  useEffect(
    () =>
      useBench.subscribe(({ history: now, draft: held }, { draft: heldBefore }) => {
        if (!held || !heldBefore || held === heldBefore) return
        const steps = stepsUpTo(shownSteps(now.document, held), end)
        asked.current = [ask, JSON.stringify(steps)]
        ask(steps)
      }),
    [ask, end],
  )

  useEffect(() => {
    if (path && room.width > 1 && client.current) {
      const wish = { path, steps: shaping, focus: shaping.length, view: viewFor(view, room), histogram: false }
      awaits('before', client.current.render('before', wish))
    }
  }, [path, room, view, shaping])

  useEffect(() => {
    if (!path) return
    const timer = setTimeout(() => client.current?.beads({ path, steps: kept }), beadDelayMs)
    return () => clearTimeout(timer)
  }, [path, kept])

  const askStrip = useCallback(
    (wish: StripWish): void => {
      setPictures((before) => (before.strip.length === 0 ? before : { ...before, strip: [] }))
      if (path) client.current?.strip({ path, ...wish })
    },
    [path],
  )
  return { ...pictures, askStrip }
}

/** Steps that this version knows, up to one that is looked at. */
const stepsUpTo = (steps: readonly Step[], end: number): Step[] => steps.slice(0, end).filter((step) => findOperation(step.operation))

/** The value before, as long as the new one says the same: effects then do not run again. */
function useSame<T>(value: T): T {
  const before = useRef(value)
  if (JSON.stringify(before.current) !== JSON.stringify(value)) before.current = value
  return before.current
}

function viewFor(view: BenchView, room: Size): View {
  const [widthPx, heightPx] = [room.width * devicePixelRatio, room.height * devicePixelRatio]
  return view.kind === 'fit'
    ? { kind: 'fit', widthPx, heightPx }
    : { kind: 'region', centreX: view.centreX, centreY: view.centreY, widthPx: widthPx / view.zoom, heightPx: heightPx / view.zoom }
}
