import { startTransition, useCallback, useEffect, useState } from 'react'
import type { Size } from '@/base/geometry'
import { isRaw } from '@/macros/raw-start'
import { withSetValues } from '@/macros/set-steps'
import { newStep, type Step } from '@/macros/step'
import { findOperation } from '@/operations'
import { startOnRaw } from './raw-on-bench'
import type { Scope } from './scope'
import { nothingShown, StageFlow, type StagePictures, type StripWish } from './stage-flow'
import { shownSteps, useBench, useBenchParts } from './store'

/** How long the wire waits for further edits before its small pictures are made anew. */
const beadDelayMs = 120
/** Steps are timed once nothing has been changed for so long. */
const timesDelayMs = 700

/** What a step does to shape and size, as steps: nothing for most. */
function shapeOf(step: Step): Step[] {
  const operation = findOperation(step.operation)
  if (operation?.group === 'geometry') return [step]
  const alone = operation?.sizeAlone?.(step.settings)
  return alone ? [{ ...newStep(alone.operation, step.id, alone.settings), enabled: step.enabled, when: step.when }] : []
}

/** Steps that this version knows, up to one that is looked at, with what was measured on the tray. */
const stepsUpTo = (steps: readonly Step[], end: number): Step[] =>
  withSetValues(
    steps.slice(0, end).filter((step) => findOperation(step.operation)),
    useBench.getState().setValues,
  )

/** What stays the same as long as the page is there: the flow, and the pictures as the page has them. */
function useStageFlow(): { flow: StageFlow | null; pictures: StagePictures } {
  const [pictures, setPictures] = useState<StagePictures>(nothingShown)
  const [flow, setFlow] = useState<StageFlow | null>(null)
  const set = useBench((bench) => bench.set)
  useEffect(() => {
    const isOnBench = (path: string): boolean => useBench.getState().sample?.path === path
    const made = new StageFlow({
      isOnBench,
      isHeld: () => useBench.getState().draft !== null,
      hasLayers: (view) => {
        const { showsClipped, compare } = useBench.getState()
        return view.mask !== null || showsClipped || compare === 'difference'
      },
      opened: ({ path, fullSize, facts, isWhole }) => {
        const isNew = !useBench.getState().sample?.facts
        set({ sample: { path, fullSize, facts, isWhole, error: null } })
        if (isNew && isRaw(facts)) startOnRaw()
      },
      refused: (path, sentence) => {
        setPictures(nothingShown)
        set({ sample: { path, fullSize: null, facts: null, isWhole: false, error: sentence } })
      },
      changed: (part) => {
        const merge = (before: StagePictures): StagePictures =>
          'problem' in part && Object.keys(part).length === 1 && before.problem === part.problem ? before : { ...before, ...part }
        // Pictures may wait until the page has time; words may not.
        if ('after' in part || 'before' in part) startTransition(() => setPictures(merge))
        else setPictures(merge)
      },
    })
    setFlow(made)
    return () => made.close()
  }, [set])
  return { flow, pictures }
}

/** Keeps the stage's pictures and the beads in step with the bench. One worker for the life of the page. */
export function useStagePictures(room: Size, scope: Scope) {
  const { flow, pictures } = useStageFlow()
  const { history, pageDraft, sample, view, showsLimit, tool, setValues } = useBenchParts(
    'history',
    'pageDraft',
    'sample',
    'view',
    'showsLimit',
    'tool',
    'setValues',
  )
  const path = sample?.path

  useEffect(() => {
    if (path) flow?.open(path)
  }, [flow, path])

  const { end, focus: inHand, cropping } = scope
  useEffect(() => {
    if (!path || !flow) return
    // Where a control is held, its value may be ahead of the page.
    const { history: now, draft } = useBench.getState()
    const steps = stepsUpTo(shownSteps(now.document, draft), end)
    const shaping = stepsUpTo(shownSteps(history.document, pageDraft), end).flatMap(shapeOf)
    const mask = showsLimit || tool?.kind === 'brush'
    const focus = cropping ? steps.length : inHand
    // Read where steps are: told here that it has changed.
    void setValues
    flow.want({ path, room, view, steps, shaping, focus, mask, isHeld: pageDraft !== null })
  }, [flow, path, room, view, end, inHand, cropping, history, pageDraft, showsLimit, tool, setValues])
  useEffect(
    () =>
      useBench.subscribe(({ history: now, draft: held }, { draft: heldBefore }) => {
        if (held && heldBefore && held !== heldBefore) flow?.hold(stepsUpTo(shownSteps(now.document, held), end))
      }),
    [flow, end],
  )

  useEffect(() => {
    if (!path || !flow) return
    const steps = stepsUpTo(history.document.steps, history.document.steps.length)
    void setValues
    const timer = setTimeout(() => flow.beads(path, steps), beadDelayMs)
    return () => clearTimeout(timer)
  }, [flow, path, history, setValues])

  const showsTimes = useBench((bench) => bench.showsTimes)
  useEffect(() => {
    if (!path || !flow || !showsTimes) return
    const steps = stepsUpTo(history.document.steps, history.document.steps.length)
    void setValues
    const timer = setTimeout(() => flow.times(path, steps), timesDelayMs)
    return () => {
      clearTimeout(timer)
      flow.stopTiming()
    }
  }, [flow, path, history, setValues, showsTimes])

  const askStrip = useCallback((wish: StripWish): void => void (path && flow?.strip(path, wish)), [flow, path])
  return { pictures, painter: flow?.painter ?? null, askStrip }
}
