/** Types of what the server answers, as the page may name them. */
export type { BenchRecord } from '@/services/bench'
export type { FolderListing } from '@/services/folders'
export type { IntakePictures, PickablePicture } from '@/services/intake-pictures'
export type { StandingStart } from '@/services/loops'
export type { BinnedMacro, MacroRevision, ShelfMacro } from '@/services/macros'
export type { ForeseenPicture } from '@/services/preflight/foresee'
export type { IntakeProgress } from '@/services/preflight/intake'
export type { Catch, Preflight } from '@/services/preflight/preflight'
export type { Mend, Problem, ProblemArea, Remedy } from '@/services/preflight/problems'
export type { PreflightLine, PreflightView } from '@/services/preflight/view'
export type { DeliveredPicture, Proof, ProofPicture } from '@/services/proof'
export type { RunnerState } from '@/services/runner-watch'
export type { RunWishes } from '@/services/runs/start'
export type { RunDetail, RunResultRow, RunSteps, RunSummary, RunsPage } from '@/services/runs/summary'
export type { SpreadPicture } from '@/services/spread'
export type { StationsView, StationView } from '@/services/stations'
export type { ImportedTouchUps } from '@/services/touch-up-files'
export type { ShownTouchUp } from '@/services/touch-ups'

import type { PictureTraits } from '@/pixels/traits'
import type { SettingsView } from '@/services/settings'

/** Settings, and how the web is opened. */
export interface ShownSettings extends SettingsView {
  /** Pages are open only to whoever has given the passphrase. */
  readonly asksPassphrase: boolean
}

/** What is measured on a picture of a proof, or why it can't be, in words. */
export interface ProofTraits {
  readonly sourcePath: string
  readonly traits: PictureTraits | null
  readonly problem: string | null
}
