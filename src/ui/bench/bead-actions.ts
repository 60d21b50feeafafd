import { counted } from '@/base/format'
import { readMacroFile, writeMacroFile } from '@/macros/codec'
import type { WireStep } from '@/macros/history'
import { editStep, insertSteps, nestSteps, removeSteps } from '@/macros/recorder'
import { readyStep, type Step } from '@/macros/step'
import { findOperation, playing } from '@/operations'
import { recordingName, useBench } from './store'

/*
 * What is done with beads by menu, shortcut, and the system's own copy and paste. Copied steps are a macro file as text, so that they
 * can be pasted into another macro, another window, or a letter. Each action says what a person should know, or nothing.
 */

type BenchState = ReturnType<typeof useBench.getState>

const fresh = (): string => crypto.randomUUID()
const plain = ({ kept: _, ...step }: WireStep): Step => step

/** The selected bead, or all that are picked together, in the order of the wire. */
export function pickedSteps({ history, selectedId, picked }: Pick<BenchState, 'history' | 'selectedId' | 'picked'>): readonly WireStep[] {
  return history.document.steps.filter((step) => step.id === selectedId || picked.has(step.id))
}

const placeBehind = ({ history, selectedId }: BenchState): number => {
  const index = history.document.steps.findIndex((step) => step.id === selectedId)
  return index < 0 ? history.document.steps.length : index + 1
}

function insert(steps: readonly Step[], index: number): void {
  const { history, commit, set } = useBench.getState()
  commit(insertSteps(history.document, steps, index, fresh))
  const first = useBench.getState().history.document.steps[index]
  if (first) set({ selectedId: first.id, picked: new Set() })
}

/** Lays steps behind the selected bead, each as a new one. */
export const laySteps = (steps: readonly Step[]): void => insert(steps, placeBehind(useBench.getState()))

export function duplicatePicked(): undefined {
  const bench = useBench.getState()
  const steps = pickedSteps(bench)
  const last = bench.history.document.steps.findLastIndex((step) => steps.includes(step))
  insert(steps.map(plain), last + 1)
}

/** Takes the picked beads off; the next one that stays is selected, or the last. */
export function removePicked(): undefined {
  const bench = useBench.getState()
  const ids = new Set(pickedSteps(bench).map(({ id }) => id))
  const { steps } = bench.history.document
  const last = steps.findLastIndex(({ id }) => ids.has(id))
  const staying = (step: WireStep): boolean => !ids.has(step.id)
  const neighbour = steps.slice(last + 1).find(staying) ?? steps.slice(0, Math.max(0, last)).findLast(staying)
  bench.commit(removeSteps(bench.history.document, ids))
  bench.set({ selectedId: neighbour?.id ?? null, picked: new Set() })
}

/** All settings of the selected step as they are when it is new; what it plays, stamps or compares with stays. */
export function takeDefaults(): undefined {
  const { history, selectedId, commit } = useBench.getState()
  const step = history.document.steps.find(({ id }) => id === selectedId)
  const operation = step && findOperation(step.operation)
  if (!operation) return
  const settings = Object.entries(operation.settings).map(([key, setting]) => {
    const isPicked = setting.kind === 'file' || setting.kind === 'macro'
    return [key, isPicked ? (step.settings[key] ?? setting.default) : setting.default] as const
  })
  commit(editStep(history.document, step.id, { settings: Object.fromEntries(settings) }))
}

const copiedKey = 'copper-loop-copied-steps'

/** The picked steps as a macro file's text. */
export function copiedText(): string | undefined {
  const bench = useBench.getState()
  const steps = pickedSteps(bench).map(plain)
  return steps.length === 0
    ? undefined
    : writeMacroFile({ name: recordingName(bench.history) ?? 'Copied steps', notes: '', tags: [], steps })
}

export function copyPicked(): string | undefined {
  const text = copiedText()
  if (!text) return undefined
  localStorage.setItem(copiedKey, text)
  return `${counted(pickedSteps(useBench.getState()).length, 'step')} copied`
}

export function pasteCopied(): string | undefined {
  const text = localStorage.getItem(copiedKey)
  return text ? pasteText(text) : 'No steps have been copied yet.'
}

/** Lays the steps of a macro file's text behind the selected bead. Other text is left alone. */
export function pasteText(text: string): string | undefined {
  if (!text.trimStart().startsWith('{')) return undefined
  try {
    insert(readMacroFile(text).steps, placeBehind(useBench.getState()))
    return undefined
  } catch (problem) {
    return problem instanceof Error ? problem.message : String(problem)
  }
}

/** Puts the picked steps into one that plays them. */
export function nestPicked(): string | undefined {
  const bench = useBench.getState()
  const steps = pickedSteps(bench)
  if (steps.length < 2) return 'Pick several beads first: hold Ctrl or Shift and click them.'
  const macro = { macroId: '', name: counted(steps.length, 'step'), revision: 1, steps: steps.map((step) => ({ ...plain(step) })) }
  const id = fresh()
  bench.commit(nestSteps(bench.history.document, new Set(steps.map((step) => step.id)), readyStep(playing(macro), id)))
  bench.set({ selectedId: id, picked: new Set() })
  return undefined
}
