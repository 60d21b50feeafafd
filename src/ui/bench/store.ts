import { create } from 'zustand'
import type { Size } from '@/core/geometry'
import type { PictureFacts } from '@/core/picture'
import { type BenchDocument, type Change, commit, emptyHistory, type History, redo, replay, undo } from '@/macro/history'
import { editStep } from '@/macro/recorder'
import type { Step } from '@/macro/step'
import type { BenchRecord } from '@/server/bench'

/** A step's settings while the pointer still holds a control: shown, not yet an edit. */
export interface Draft {
  readonly stepId: string
  readonly edit: Partial<Pick<Step, 'settings' | 'strengthPercent' | 'limit'>>
}

export type BenchView = { readonly kind: 'fit' } | { readonly kind: 'full'; readonly centreX: number; readonly centreY: number }

export interface Sample {
  readonly path: string
  readonly fullSize: Size | null
  readonly facts: PictureFacts | null
  /** Why it can't be shown. */
  readonly error: string | null
}

interface BenchState {
  /** The stored bench has been read. */
  readonly ready: boolean
  readonly history: History
  readonly draft: Draft | null
  readonly selectedId: string | null
  /** Show the picture after the selected step instead of at the end. */
  readonly upToHere: boolean
  readonly sample: Sample | null
  /** The macro whose steps lie on the wire, if they came from the shelf. */
  readonly macroId: string | null
  readonly view: BenchView
  readonly wipe: boolean
  /** Share of the stage's width, 0–1. */
  readonly wipeAt: number
  readonly holdingOriginal: boolean
  /** The add-step list is open. */
  readonly adding: boolean
}

interface BenchActions {
  load(record: BenchRecord): void
  /** Makes an edit; nothing happens for an edit that changes nothing. */
  commit(change: Change | undefined): void
  undo(): void
  redo(): void
  setDraft(draft: Draft | null): void
  /** Turns the draft into an edit. */
  commitDraft(draft: Draft): void
  set(part: Partial<Omit<BenchState, 'history' | 'ready'>>): void
}

const start: BenchState = {
  ready: false,
  history: emptyHistory,
  draft: null,
  selectedId: null,
  upToHere: false,
  sample: null,
  macroId: null,
  view: { kind: 'fit' },
  wipe: false,
  wipeAt: 0.5,
  holdingOriginal: false,
  adding: false,
}

export const useBench = create<BenchState & BenchActions>()((set, get) => ({
  ...start,
  load: ({ changes, cursor, samplePath, macroId }) => {
    const history = replay(changes, cursor)
    const sample = samplePath ? { path: samplePath, fullSize: null, facts: null, error: null } : null
    const stillThere = history.document.steps.some((step) => step.id === get().selectedId)
    set({
      ready: true,
      history,
      sample,
      macroId,
      draft: null,
      selectedId: stillThere ? get().selectedId : (history.document.steps.at(-1)?.id ?? null),
    })
  },
  commit: (change) => change && set((state) => ({ history: commit(state.history, change), draft: null })),
  undo: () => set((state) => withSelection(state, undo(state.history))),
  redo: () => set((state) => withSelection(state, redo(state.history))),
  setDraft: (draft) => set({ draft }),
  commitDraft: ({ stepId, edit }) => {
    const change = editStep(get().history.document, stepId, edit)
    if (change) get().commit(change)
    else set({ draft: null })
  },
  set,
}))

function withSelection(state: BenchState, history: History): Partial<BenchState> {
  const { steps } = history.document
  const selectedId = steps.some((step) => step.id === state.selectedId) ? state.selectedId : (steps.at(-1)?.id ?? null)
  return { history, draft: null, selectedId }
}

/** The document with the draft in place: what the stage shows. */
export function shownSteps(document: BenchDocument, draft: Draft | null): BenchDocument['steps'] {
  if (!draft) return document.steps
  return document.steps.map((step) => (step.id === draft.stepId ? { ...step, ...draft.edit } : step))
}

/** The name of the recording under way, or of the last one. */
export function recordingName({ document, changes, cursor }: History): string | null {
  if (document.recording !== null) return document.recording
  for (let i = cursor - 1; i >= 0; i--) {
    const change = changes[i]
    if (change?.type === 'recording' && change.before !== null) return change.before
  }
  return null
}
