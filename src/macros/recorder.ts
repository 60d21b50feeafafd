import type { Settings } from '@/operations'
import type { BenchDocument, Change, WireStep } from './history'
import { newStep, type Step } from './step'

/*
 * What a person's gestures do to the bench, as changes. While recording, every committed edit becomes a kept step;
 * otherwise it stays on the wire, hollow, and can be kept later.
 */

export const startRecording = (document: BenchDocument, macroName: string): Change => ({
  type: 'recording',
  before: document.recording,
  after: macroName,
})
export const endRecording = (document: BenchDocument): Change => ({ type: 'recording', before: document.recording, after: null })

export function addStep(
  document: BenchDocument,
  operationId: string,
  id: string,
  index = document.steps.length,
  settings: Settings = {},
): Change {
  return { type: 'insert', index, step: { ...newStep(operationId, id, settings), kept: document.recording !== null } }
}

function replaceStep(document: BenchDocument, id: string, edit: (step: WireStep) => WireStep): Change | undefined {
  const index = document.steps.findIndex((step) => step.id === id)
  const before = document.steps[index]
  if (!before) return undefined
  const after = edit(before)
  return JSON.stringify(after) === JSON.stringify(before) ? undefined : { type: 'replace', index, before, after }
}

/** Edits a step. Editing a hollow step while recording records it. */
export type StepEdit = Partial<Pick<Step, 'settings' | 'enabled' | 'strengthPercent' | 'blend' | 'when' | 'limit' | 'note' | 'open'>>

export function editStep(document: BenchDocument, id: string, edit: StepEdit): Change | undefined {
  return replaceStep(document, id, (step) => ({ ...step, ...edit, kept: step.kept || document.recording !== null }))
}

/** Takes steps off, however many, in one edit. */
export function removeSteps(document: BenchDocument, ids: ReadonlySet<string>): Change | undefined {
  const changes = document.steps.flatMap((step, index): Change[] => (ids.has(step.id) ? [{ type: 'remove', index, step }] : [])).reverse()
  return changes.length > 0 ? { type: 'all', changes } : undefined
}

export function moveStep(document: BenchDocument, id: string, to: number): Change | undefined {
  const from = document.steps.findIndex((step) => step.id === id)
  const target = Math.min(Math.max(to, 0), document.steps.length - 1)
  return from < 0 || from === target ? undefined : { type: 'move', from, to: target }
}

/** Lays copies of steps behind a place, in their order. `fresh` gives each its new id. */
export function insertSteps(document: BenchDocument, steps: readonly Step[], index: number, fresh: () => string): Change | undefined {
  const kept = document.recording !== null
  const changes = steps.map((step, i): Change => ({ type: 'insert', index: index + i, step: { ...step, id: fresh(), kept } }))
  return changes.length > 0 ? { type: 'all', changes } : undefined
}

/** Puts one step in the place of several that play it: they become a macro played as one. */
export function nestSteps(document: BenchDocument, ids: ReadonlySet<string>, played: Step): Change | undefined {
  const first = document.steps.findIndex((step) => ids.has(step.id))
  if (first < 0) return undefined
  const removals = document.steps
    .map((step, index): Change => ({ type: 'remove', index, step }))
    .filter((change) => change.type === 'remove' && ids.has(change.step.id))
    .reverse()
  const kept = document.steps.some((step) => ids.has(step.id) && step.kept)
  return { type: 'all', changes: [...removals, { type: 'insert', index: first, step: { ...played, kept } }] }
}

/** Marks steps as kept, so that they become part of the macro. */
export function keepSteps(document: BenchDocument, ids: ReadonlySet<string>): Change | undefined {
  const changes = document.steps.flatMap((step, index): Change[] =>
    ids.has(step.id) && !step.kept ? [{ type: 'replace', index, before: step, after: { ...step, kept: true } }] : [],
  )
  return changes.length > 0 ? { type: 'all', changes } : undefined
}

/** Clears the wire and lays a macro's steps on it. `fresh` gives each step its new id; without it they keep their own. */
export function layMacro(document: BenchDocument, steps: readonly Step[], fresh?: () => string): Change {
  const removals = document.steps.map((step, index): Change => ({ type: 'remove', index, step })).reverse()
  const insertions = steps.map(
    (step, index): Change => ({
      type: 'insert',
      index,
      step: { ...step, id: fresh?.() ?? step.id, kept: true },
    }),
  )
  return { type: 'all', changes: [...removals, ...insertions] }
}

/** The steps that a macro kept now would hold. */
export const keptSteps = (document: BenchDocument): Step[] => document.steps.filter((step) => step.kept).map(({ kept: _, ...step }) => step)
