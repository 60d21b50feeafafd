import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { Size } from '@/base/geometry'
import { pick } from '@/base/pick'
import type { BenchRecord } from '@/contract/answers'
import { isRawName } from '@/jobs/picture-names'
import type { PictureOnBench } from '@/jobs/picture-wire'
import { type BenchDocument, type Change, commit, emptyHistory, type History, redo, replay, undo } from '@/macros/history'
import { editStep } from '@/macros/recorder'
import type { Step } from '@/macros/step'
import type { ToolKind } from '@/operations'
import type { PictureFacts } from '@/pixels/picture'
import type { Strip } from './strip-values'

/** As many pictures as the tray holds, all of them live. */
export const maxSamples = 8

/** A step's settings while the pointer still holds a control: shown, not yet an edit. */
export interface Draft {
  readonly stepId: string
  readonly edit: Partial<Pick<Step, 'settings' | 'strengthPercent' | 'limit'>>
}

/** zoom: screen pixels per picture pixel. */
export type BenchView =
  | { readonly kind: 'fit' }
  | { readonly kind: 'full'; readonly zoom: 1 | 2; readonly centreX: number; readonly centreY: number }

/** How the picture before the steps is shown with the one after them. */
export const comparisons = ['none', 'wipe', 'beside', 'difference'] as const
export type Comparison = (typeof comparisons)[number]

/** Lines laid over the picture to compose by. */
export const guides = ['none', 'thirds', 'grid', 'diagonals'] as const
export type Guide = (typeof guides)[number]

/** What the pointer does on the picture besides looking. */
export type Tool =
  | { readonly kind: ToolKind }
  /** `limit`: which of the step's limits is brushed. */
  | { readonly kind: 'brush'; readonly limit: number }
  /** A setting of the step takes the colour that is clicked. */
  | { readonly kind: 'colour'; readonly setting: string }

export interface Brush {
  readonly sizePercent: number
  readonly softnessPercent: number
  readonly erases: boolean
}

export interface Sample {
  readonly path: string
  readonly fullSize: Size | null
  readonly facts: PictureFacts | null
  /** Its own pixels are there, not only a copy that stands for them. */
  readonly isWhole: boolean
  /** Why it can't be shown. */
  readonly error: string | null
}

interface BenchState {
  /** The stored bench has been read. */
  readonly ready: boolean
  readonly history: History
  readonly draft: Draft | null
  /** The draft as the page around the picture shows it: a little behind, where drawing that would hold the picture up. */
  readonly pageDraft: Draft | null
  readonly selectedId: string | null
  /** Beads picked besides the selected one, to be copied or nested together. */
  readonly picked: ReadonlySet<string>
  /** Show the picture after the selected step instead of at the end. */
  readonly upToHere: boolean
  readonly sample: Sample | null
  /** Paths of the pictures in the tray. */
  readonly samples: readonly string[]
  /** What was measured on the tray as a set, by the id of the step that looks at it. */
  readonly setValues: ReadonlyMap<string, readonly number[]>
  /** The macro whose steps lie on the wire, if they came from the shelf. */
  readonly macroId: string | null
  /** The picture of a loop whose own steps lie on the wire beside the loop's. */
  readonly picture: PictureOnBench | null
  readonly view: BenchView
  readonly compare: Comparison
  /** Share of the stage's width, 0–1. */
  readonly wipeAt: number
  readonly holdingOriginal: boolean
  /** Marks pixels that are clipped. */
  readonly showsClipped: boolean
  /** Tints where the selected step applies. */
  readonly showsLimit: boolean
  /** Beads say what each step takes instead of how it is set. */
  readonly showsTimes: boolean
  readonly guide: Guide
  readonly tool: Tool | null
  readonly brush: Brush
  readonly strip: Strip | null
  /** The add-step list is open. */
  readonly adding: boolean
  /** The wire is about to be run over a folder. */
  readonly overFolder: boolean
  /** Shows every macro of the shelf on the picture in hand. */
  readonly tries: boolean
  /** Asks how the picture in hand is to be delivered. */
  readonly deliversOne: boolean
  /** What is to be kept is about to be named. */
  readonly keeping: boolean
}

interface BenchActions {
  load(record: BenchRecord): void
  /** Makes an edit; nothing happens for an edit that changes nothing. */
  commit(change: Change | undefined): void
  undo(): void
  redo(): void
  /** `isShown`: the control that is held shows its own value; the rest of the page follows a few times a second. */
  setDraft(draft: Draft | null, isShown?: boolean): void
  /** Turns the draft into an edit. */
  commitDraft(draft: Draft): void
  set(part: Partial<Omit<BenchState, 'history' | 'ready'>>): void
}

const start: BenchState = {
  ready: false,
  history: emptyHistory,
  draft: null,
  pageDraft: null,
  selectedId: null,
  picked: new Set(),
  upToHere: false,
  sample: null,
  samples: [],
  setValues: new Map(),
  macroId: null,
  picture: null,
  view: { kind: 'fit' },
  compare: 'none',
  wipeAt: 0.5,
  holdingOriginal: false,
  showsClipped: false,
  showsLimit: false,
  showsTimes: false,
  guide: 'none',
  tool: null,
  brush: { sizePercent: 8, softnessPercent: 60, erases: false },
  strip: null,
  adding: false,
  overFolder: false,
  deliversOne: false,
  tries: false,
  keeping: false,
}

/** How far the page may be behind the control that is held. */
const behindMs = 90

/** Calls at most once in a while, and then for all that was asked meanwhile. */
function nowAndThen(work: () => void, ms: number): () => void {
  let isWaiting = false
  return () => {
    if (isWaiting) return
    isWaiting = true
    setTimeout(() => {
      isWaiting = false
      work()
    }, ms)
  }
}

export const useBench = create<BenchState & BenchActions>()((set, get) => {
  const letPageFollow = nowAndThen(() => set({ pageDraft: get().draft }), behindMs)
  return {
    ...start,
    load: ({ base, folded, changes, cursor, samplePath, samples, macroId, picture }) => {
      const history = replay(changes, cursor - folded, base ?? undefined, folded)
      const sample = samplePath ? { path: samplePath, fullSize: null, facts: null, isWhole: false, error: null } : null
      const stillThere = history.document.steps.some((step) => step.id === get().selectedId)
      set({
        ready: true,
        history,
        sample,
        samples: samplePath && !samples.includes(samplePath) ? [samplePath, ...samples].slice(0, maxSamples) : samples,
        macroId,
        picture,
        draft: null,
        pageDraft: null,
        selectedId: stillThere ? get().selectedId : (history.document.steps.at(-1)?.id ?? null),
      })
    },
    commit: (change) => change && set((state) => ({ history: commit(state.history, change), draft: null, pageDraft: null })),
    undo: () => set((state) => withSelection(state, undo(state.history))),
    redo: () => set((state) => withSelection(state, redo(state.history))),
    setDraft: (draft, isShown = false) => {
      if (draft && isShown && get().pageDraft?.stepId === draft.stepId) {
        set({ draft })
        letPageFollow()
      } else set({ draft, pageDraft: draft })
    },
    commitDraft: ({ stepId, edit }) => {
      const change = editStep(get().history.document, stepId, edit)
      if (change) get().commit(change)
      else set({ draft: null, pageDraft: null })
    },
    set: (part) =>
      // A tool belongs to the step it was taken for.
      set((state) =>
        part.selectedId !== undefined && part.selectedId !== state.selectedId
          ? { tool: null, strip: null, picked: new Set(), ...part }
          : part,
      ),
  }
})

function withSelection(state: BenchState, history: History): Partial<BenchState> {
  const { steps } = history.document
  const selectedId = steps.some((step) => step.id === state.selectedId) ? state.selectedId : (steps.at(-1)?.id ?? null)
  return { history, draft: null, pageDraft: null, selectedId }
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

/** Some of the bench: a part of the page that asks for these is not drawn anew when others change. */
export function useBenchParts<K extends keyof (BenchState & BenchActions)>(...parts: readonly K[]): Pick<BenchState & BenchActions, K> {
  return useBench(useShallow((bench) => pick(bench, parts)))
}

/** Whether a raw file is on its way to the stage: that takes all of the machine, so other raw files, and other copies of it, wait. */
export const isRawOnItsWay = ({ sample }: Pick<BenchState, 'sample'>): boolean =>
  sample !== null && isRawName(sample.path) && !sample.isWhole && !sample.error
