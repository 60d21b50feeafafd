import { counted } from '@/base/format'
import { readMacroFile, writeMacroFile } from '@/macros/codec'
import type { WireStep } from '@/macros/history'
import { insertSteps, nestSteps } from '@/macros/recorder'
import { readyStep, type Step } from '@/macros/step'
import { playing } from '@/operations'
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

export function duplicatePicked(): undefined {
  const bench = useBench.getState()
  const steps = pickedSteps(bench)
  const last = bench.history.document.steps.findLastIndex((step) => steps.includes(step))
  insert(steps.map(plain), last + 1)
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
