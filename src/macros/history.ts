import { completeStep, type Step } from './step'

/** A step on the wire. `kept`: recorded, a full bead; otherwise made without recording, a hollow one. */
export interface WireStep extends Step {
  readonly kept: boolean
}

/** What a person works on at the bench. */
export interface BenchDocument {
  readonly steps: readonly WireStep[]
  /** Name of the macro being recorded, or null. */
  readonly recording: string | null
}

export const emptyBench: BenchDocument = { steps: [], recording: null }

/** One edit as plain data that can be applied, inverted and stored. */
export type Change =
  | { readonly type: 'insert'; readonly index: number; readonly step: WireStep }
  | { readonly type: 'remove'; readonly index: number; readonly step: WireStep }
  | { readonly type: 'replace'; readonly index: number; readonly before: WireStep; readonly after: WireStep }
  | { readonly type: 'move'; readonly from: number; readonly to: number }
  | { readonly type: 'recording'; readonly before: string | null; readonly after: string | null }
  | { readonly type: 'all'; readonly changes: readonly Change[] }

/** Steps on the wire as an earlier version may have left them: see `completeStep`. */
export const completeWire = (steps: readonly WireStep[]): WireStep[] => steps.map((step) => ({ ...completeStep(step), kept: step.kept }))

/** The same for the steps of a change. */
export function completeChange(change: Change): Change {
  const complete = (step: WireStep): WireStep => ({ ...completeStep(step), kept: step.kept })
  switch (change.type) {
    case 'insert':
    case 'remove':
      return { ...change, step: complete(change.step) }
    case 'replace':
      return { ...change, before: complete(change.before), after: complete(change.after) }
    case 'all':
      return { ...change, changes: change.changes.map(completeChange) }
    default:
      return change
  }
}

/** Applies a change. A change that does not fit the document leaves it as it is. */
export function applyChange(document: BenchDocument, change: Change): BenchDocument {
  switch (change.type) {
    case 'insert':
      return { ...document, steps: document.steps.toSpliced(change.index, 0, change.step) }
    case 'remove':
      return { ...document, steps: document.steps.toSpliced(change.index, 1) }
    case 'replace':
      return { ...document, steps: document.steps.map((step, index) => (index === change.index ? change.after : step)) }
    case 'move': {
      const step = document.steps[change.from]
      return step ? { ...document, steps: document.steps.toSpliced(change.from, 1).toSpliced(change.to, 0, step) } : document
    }
    case 'recording':
      return { ...document, recording: change.after }
    case 'all':
      return change.changes.reduce(applyChange, document)
  }
}

/** The change that takes this one back. */
export function invertChange(change: Change): Change {
  switch (change.type) {
    case 'insert':
      return { ...change, type: 'remove' }
    case 'remove':
      return { ...change, type: 'insert' }
    case 'replace':
      return { ...change, before: change.after, after: change.before }
    case 'move':
      return { ...change, from: change.to, to: change.from }
    case 'recording':
      return { ...change, before: change.after, after: change.before }
    case 'all':
      return { type: 'all', changes: change.changes.map(invertChange).reverse() }
  }
}

/**
 * The document, its changes, and how many of them are in force. The oldest changes may have been folded: then the first
 * one here comes after `folded` others, and can't be undone below them.
 */
export interface History {
  readonly document: BenchDocument
  readonly changes: readonly Change[]
  readonly cursor: number
  readonly folded: number
}

export const emptyHistory: History = { document: emptyBench, changes: [], cursor: 0, folded: 0 }

/** Makes a change; what had been undone is dropped. */
export function commit(history: History, change: Change): History {
  return {
    ...history,
    document: applyChange(history.document, change),
    changes: [...history.changes.slice(0, history.cursor), change],
    cursor: history.cursor + 1,
  }
}

export const canUndo = (history: History): boolean => history.cursor > 0
export const canRedo = (history: History): boolean => history.cursor < history.changes.length

export function undo(history: History): History {
  const change = history.changes[history.cursor - 1]
  return change ? { ...history, document: applyChange(history.document, invertChange(change)), cursor: history.cursor - 1 } : history
}

export function redo(history: History): History {
  const change = history.changes[history.cursor]
  return change ? { ...history, document: applyChange(history.document, change), cursor: history.cursor + 1 } : history
}

/** Builds the history again from its stored changes, and from what lay there before the oldest of them. */
export const replay = (changes: readonly Change[], cursor: number, base: BenchDocument = emptyBench, folded = 0): History => ({
  document: changes.slice(0, cursor).reduce(applyChange, base),
  changes,
  cursor,
  folded,
})
