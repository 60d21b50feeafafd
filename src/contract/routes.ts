import type { GatheredFile } from '@/jobs/gather'
import { intakeSchema, type Loop, loopSchema } from '@/jobs/loop'
import type { Question } from '@/macros/open'
import type { MarkKind } from '@/pixels/traits'
import type {
  BenchRecord,
  BinnedMacro,
  FolderListing,
  ImportedTouchUps,
  IntakePictures,
  MacroRevision,
  Proof,
  ProofTraits,
  RunDetail,
  RunnerState,
  RunSteps,
  RunSummary,
  RunsPage,
  ShelfMacro,
  ShownSettings,
  ShownTouchUp,
  SpreadPicture,
  StandingStart,
  StationsView,
} from './answers'
import {
  aboutSchema,
  backupSchema,
  benchEditSchema,
  fileNameQuery,
  folderQuery,
  importSchema,
  inboxSchema,
  keepSchema,
  laidSchema,
  machineSchema,
  marksSchema,
  onePictureSchema,
  openDropSchema,
  pagesSchema,
  passphraseSchema,
  pictureQuery,
  proofPathsSchema,
  proofPictureQuery,
  reportQuery,
  restoreSchema,
  resultQuery,
  reviseSchema,
  rootsSchema,
  runsQuery,
  runWishesSchema,
  spreadQuery,
  touchUpEditSchema,
  touchUpStepSchema,
} from './requests'
import { type Raw, route } from './route'

/** Every address of the server. */
export const routes = {
  status: route<{ readonly runner: RunnerState; readonly roots: readonly string[] }>()('GET', '/api/status'),
  /** Other machines that work on this one's pictures. */
  stations: route<StationsView>()('GET', '/api/stations'),
  /** A kept file's bytes, for stations; by the word that they have. */
  stationKeptFile: route<Raw>()('GET', '/api/stations/kept/[hash]'),
  /** Server-sent events, see `Events`. */
  events: route<Raw>()('GET', '/api/events'),
  signIn: route<{ readonly open: boolean }>()('POST', '/api/session', { body: passphraseSchema }),
  signOut: route<{ readonly open: boolean }>()('DELETE', '/api/session'),

  bench: route<BenchRecord>()('GET', '/api/bench'),
  extendBench: route()('POST', '/api/bench/changes', { body: benchEditSchema }),
  layOnBench: route()('POST', '/api/bench/laid', { body: laidSchema }),
  dropPicture: route<{ readonly path: string }>()('POST', '/api/bench/drop', { query: fileNameQuery }),
  spread: route<readonly SpreadPicture[]>()('GET', '/api/bench/spread', { query: spreadQuery }),

  folder: route<FolderListing>()('GET', '/api/folders', { query: folderQuery }),
  /** A picture's numbers, see `framed` and `PixelHeader`. */
  pixels: route<Raw>()('GET', '/api/pictures/pixels', { query: pictureQuery }),
  thumbnail: route<Raw>()('GET', '/api/pictures/thumbnail', { query: pictureQuery }),
  /** Keeps a file for a macro. */
  keepFile: route<{ readonly value: string }>()('POST', '/api/files', { query: fileNameQuery }),
  /** A kept file's numbers, see `framed`. */
  keptFile: route<Raw>()('GET', '/api/files/[hash]', { query: fileNameQuery }),

  macros: route<readonly ShelfMacro[]>()('GET', '/api/macros'),
  keepMacro: route<ShelfMacro>()('POST', '/api/macros', { body: keepSchema }),
  macro: route<ShelfMacro>()('GET', '/api/macros/[id]'),
  /** Keeps new steps as the next revision. */
  reviseMacro: route<ShelfMacro>()('POST', '/api/macros/[id]', { body: reviseSchema }),
  binMacro: route()('DELETE', '/api/macros/[id]'),
  /** Changes name, notes and tags. */
  describeMacro: route<ShelfMacro>()('POST', '/api/macros/[id]/about', { body: aboutSchema }),
  macroBundle: route<Raw>()('GET', '/api/macros/[id]/bundle'),
  macroFile: route<Raw>()('GET', '/api/macros/[id]/file'),
  duplicateMacro: route<ShelfMacro>()('POST', '/api/macros/[id]/duplicate'),
  revisions: route<readonly MacroRevision[]>()('GET', '/api/macros/[id]/revisions'),
  bin: route<readonly BinnedMacro[]>()('GET', '/api/macros/bin'),
  /** Takes a macro back out of the bin. */
  restoreMacro: route<ShelfMacro>()('POST', '/api/macros/bin', { body: restoreSchema }),
  /** A macro file, as text. */
  importMacro: route<ShelfMacro>()('POST', '/api/macros/import', { body: importSchema }),
  /** A macro file, a bundle or a look, as it was chosen. */
  importFile: route<ShelfMacro>()('POST', '/api/macros/import-file', { query: fileNameQuery }),

  loops: route<readonly Loop[]>()('GET', '/api/loops'),
  saveLoop: route<Loop>()('POST', '/api/loops', { body: loopSchema }),
  loop: route<Loop>()('GET', '/api/loops/[id]'),
  binLoop: route()('DELETE', '/api/loops/[id]'),
  /** Takes a loop back out of the bin. */
  restoreLoop: route<Loop>()('POST', '/api/loops/[id]/restore'),
  /** The loop with its macros, without its folders. */
  loopFile: route<Raw>()('GET', '/api/loops/[id]/file'),
  /** Takes such a file in. */
  importLoop: route<Loop>()('POST', '/api/loops/import', { query: fileNameQuery }),
  /** A loop that does what a run did. */
  loopOfRun: route<Loop>()('POST', '/api/runs/[id]/loop'),
  /** What a loop asks before a run. */
  loopQuestions: route<readonly Question[]>()('GET', '/api/loops/[id]/questions'),
  /** A loop's set, to be looked through. */
  proof: route<Proof>()('GET', '/api/loops/[id]/proof'),
  /** What is measured on pictures as the loop would deliver them now. */
  proofTraits: route<readonly ProofTraits[]>()('POST', '/api/loops/[id]/proof/traits', { body: proofPathsSchema }),
  /** A picture of a loop, small, as it would be delivered now. */
  proofPicture: route<Raw>()('GET', '/api/loops/[id]/proof/picture', { query: proofPictureQuery }),
  /** What pictures of a loop have of their own. */
  touchUps: route<readonly ShownTouchUp[]>()('GET', '/api/loops/[id]/touch-ups'),
  touchUp: route<ShownTouchUp>()('POST', '/api/loops/[id]/touch-ups', { body: touchUpEditSchema }),
  /** Takes a picture's last change back, or makes it again. */
  stepTouchUp: route<ShownTouchUp>()('POST', '/api/loops/[id]/touch-ups/step', { body: touchUpStepSchema }),
  /** All touch-ups of a loop, as a file. */
  touchUpFile: route<Raw>()('GET', '/api/loops/[id]/touch-ups/file'),
  /** A file of touch-ups, as it was chosen. */
  importTouchUps: route<ImportedTouchUps>()('POST', '/api/loops/[id]/touch-ups/import', { query: fileNameQuery }),
  /** Drops what touch-ups have at steps that the macros have no more. */
  dropLostSteps: route<{ readonly pictures: number }>()('POST', '/api/loops/[id]/touch-ups/drop-lost'),
  /** Forgets what was measured on a loop's set: the next look measures it anew. */
  measureSetAnew: route<{ readonly forgotten: boolean }>()('POST', '/api/loops/[id]/measure-set'),
  starts: route<readonly StandingStart[]>()('GET', '/api/loops/starts'),
  /** The last run of each loop, by loop. */
  lastRuns: route<Readonly<Record<string, RunSummary>>>()('GET', '/api/loops/last-runs'),
  /** All pictures that lie in an intake's folders, to pick from. */
  intakePictures: route<IntakePictures>()('POST', '/api/loops/pictures', { body: intakeSchema }),
  /** Checks a loop as it stands on the page, saved or not. Lines of JSON, `PreflightLine` each. */
  preflight: route<Raw>()('POST', '/api/loops/preflight', { body: loopSchema }),
  startRun: route<RunSummary>()('POST', '/api/loops/[id]/run', { body: runWishesSchema }),
  /** Opens a drop onto a loop; its files come one by one, then it runs over them. */
  openDrop: route<{ readonly drop: string }>()('POST', '/api/loops/[id]/inbox', { body: openDropSchema }),
  sendToDrop: route<{ readonly path: string }>()('POST', '/api/loops/[id]/inbox/[drop]', { query: fileNameQuery }),
  forgetDrop: route()('DELETE', '/api/loops/[id]/inbox/[drop]'),
  runDrop: route<RunSummary>()('POST', '/api/loops/[id]/inbox/[drop]/run', { body: runWishesSchema.pick(['answers']) }),
  tryLoop: route<RunSummary>()('POST', '/api/loops/[id]/try', { body: runWishesSchema.pick(['answers']) }),

  /** Delivers one picture, as it stands on the bench or in the proof. */
  deliverPicture: route<RunSummary>()('POST', '/api/pictures/deliver', { body: onePictureSchema }),

  /** Open runs and the newest of the others, or those before a number. */
  runs: route<RunsPage>()('GET', '/api/runs', { query: runsQuery }),
  run: route<RunDetail>()('GET', '/api/runs/[id]'),
  /** A run's pictures as they were delivered, to be looked through. */
  proofOfRun: route<Proof>()('GET', '/api/runs/[id]/proof'),
  /** What of a run's macros was frozen when it was made. */
  runSteps: route<RunSteps>()('GET', '/api/runs/[id]/steps'),
  report: route<Raw>()('GET', '/api/runs/[id]/report', { query: reportQuery }),
  zip: route<Raw>()('GET', '/api/runs/[id]/zip'),
  /** Gathers delivered pictures on pages, afterwards. */
  makePages: route<readonly GatheredFile[]>()('POST', '/api/pages', { body: pagesSchema }),
  /** Makes a run's pages again, where something kept them from being made. */
  makePagesAgain: route<RunSummary>()('POST', '/api/runs/[id]/pages'),
  /** A file of pages that a run made, by its place among these. */
  gatheredFile: route<Raw>()('GET', '/api/runs/[id]/pages/[index]'),
  pauseRun: route<RunSummary>()('POST', '/api/runs/[id]/pause'),
  goOn: route<RunSummary>()('POST', '/api/runs/[id]/go-on'),
  stopRun: route<RunSummary>()('POST', '/api/runs/[id]/stop'),
  moveRunUp: route<RunSummary>()('POST', '/api/runs/[id]/up'),
  startRunNow: route<RunSummary>()('POST', '/api/runs/[id]/start-now'),
  /** A delivered picture: small with an edge, else pixel for pixel. */
  result: route<Raw>()('GET', '/api/results/[id]', { query: resultQuery }),

  settings: route<ShownSettings>()('GET', '/api/settings'),
  /** Folders of this machine, to be named as roots. */
  places: route<FolderListing>()('GET', '/api/settings/places', { query: folderQuery }),
  nameRoots: route<ShownSettings>()('POST', '/api/settings/roots', { body: rootsSchema }),
  setMachine: route<ShownSettings>()('POST', '/api/settings/machine', { body: machineSchema }),
  /** Kinds of standing out that are told no more. */
  setSilentMarks: route<readonly MarkKind[]>()('POST', '/api/settings/marks', { body: marksSchema }),
  /** Clears the inboxes, or says how long drops are kept. */
  setInbox: route<ShownSettings>()('POST', '/api/settings/inbox', { body: inboxSchema }),
  clearCache: route<ShownSettings>()('POST', '/api/settings/cache'),
  makeBackup: route<ShownSettings>()('POST', '/api/settings/backup'),
  restoreBackup: route<ShownSettings>()('POST', '/api/settings/restore', { body: backupSchema }),
} as const

/** What `/api/events` sends (WHATWG HTML, 9.2): the name of an event, and what it brings. */
export interface Events {
  readonly run: RunSummary
  readonly runner: RunnerState
}
