import { readFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { AppError } from '@/base/errors'
import { clearUnfinished } from '@/files/placing'
import { completeDelivery } from '@/jobs/delivery'
import type { Loop, LoopIntake } from '@/jobs/loop'
import type { Answers } from '@/macros/open'
import type { JobWatcher } from '@/processes/serve'
import * as store from '@/store/runs'
import { importFile } from '../bundles'
import type { Context } from '../context'
import { keepDropped } from '../dropped'
import { type FolderListing, listFolder, listPlaces } from '../folders'
import { type Arrived, takeIntoInbox } from '../inbox'
import { intakePictures } from '../intake-pictures'
import { keepBytes, sentAsset } from '../kept-files'
import { importLoop } from '../loop-files'
import { loopById } from '../loops'
import type { ShelfMacro } from '../macros'
import { gatherRun } from '../pages/gather-run'
import { makePages, makePagesAgain, type PagesAfterwards } from '../pages/make-pages'
import { sourcePixels, thumbnailFile } from '../pictures'
import { preflightAndKeep } from '../preflight/kept'
import { type PreflightView, viewOfPreflight } from '../preflight/view'
import { proofOfLoop, proofOfRun } from '../proof'
import { proofSmall } from '../proof-pictures'
import { runDrop } from '../runs/drop'
import { deliverPicture, type OnePicture } from '../runs/one-picture'
import { writeReports } from '../runs/report-files'
import { shownResult, zipEntries } from '../runs/results'
import { type RunWishes, startOverNew, startRun } from '../runs/start'
import { deliveredPath, type RunSummary } from '../runs/summary'
import { tellEnd } from '../runs/tell-end'
import { tryLoop } from '../runs/tries'
import { keepToSend } from '../sent-files'
import { checkRoots, rootsThere } from '../settings'
import { pickSpread } from '../spread'
import { intakeStamp } from '../starts'
import { importTouchUps } from '../touch-up-files'
import { type TouchUpEdit, touchUpPicture } from '../touch-ups'

/*
 * Everything that looks into a person's folders or opens a person's file, besides the work on pictures in a run. It is
 * carried out by helper processes: see src/processes.
 */

/** Watches a preflight, and lets the parent know that the helper is alive. */
const watching = ({ signal, onProgress }: JobWatcher) => ({ signal, onProgress })

export const helperCalls = {
  listFolder: (context: Context, { path }: { path?: string }): Promise<FolderListing> => listFolder(context, path),

  listPlaces: (_: Context, { path }: { path?: string }): Promise<FolderListing> => listPlaces(path),

  /** @returns the cached file */
  thumbnail: (context: Context, { path, edge }: { path: string; edge: number }) => thumbnailFile(context, path, edge),

  resultThumbnail: (context: Context, { id, edge }: { id: number; edge: number }) =>
    thumbnailFile(context, deliveredPath(context, id), edge),

  /** @returns the file of the answer */
  pixels: async (context: Context, { path, edge }: { path: string; edge?: number }) =>
    keepToSend(context.dataFolder, await sourcePixels(context, path, edge)),

  /** @returns the file of the answer */
  shownResult: async (context: Context, { id }: { id: number }) => keepToSend(context.dataFolder, await shownResult(context, id)),

  /** @returns the file of the answer */
  asset: async (context: Context, { hash, name }: { hash: string; name: string }) =>
    keepToSend(context.dataFolder, await sentAsset(context, hash, name)),

  zipEntries: (context: Context, { runId }: { runId: string }) => zipEntries(context, runId),

  spread: (context: Context, { folder }: { folder: string }) => pickSpread(context, folder),

  intakePictures: (context: Context, { intake }: { intake: LoopIntake }, watcher: JobWatcher) =>
    intakePictures(context, intake, watching(watcher)),

  preflight: async (context: Context, { loop }: { loop: Loop }, watcher: JobWatcher): Promise<PreflightView> =>
    viewOfPreflight(await preflightAndKeep(context, loop, watching(watcher))),

  startRun: (context: Context, { loopId, wishes }: { loopId: string; wishes: RunWishes }, watcher: JobWatcher): Promise<RunSummary> =>
    startRun(context, loopById(context, loopId), wishes, watching(watcher)),

  deliverPicture: (context: Context, picture: OnePicture, watcher: JobWatcher): Promise<RunSummary> =>
    deliverPicture(context, picture, watching(watcher)),

  tryLoop: (context: Context, { loopId, answers }: { loopId: string; answers?: Answers }, watcher: JobWatcher): Promise<RunSummary> =>
    tryLoop(context, loopById(context, loopId), answers, watching(watcher)),

  keepDropped: async (context: Context, { upload, name }: { upload: string; name: string }) =>
    keepDropped(context, await readFile(upload), name),

  takeIntoInbox: (context: Context, arrived: Arrived) => takeIntoInbox(context, arrived),

  runDrop: (context: Context, drop: { loopId: string; drop: string; answers?: Answers }, watcher: JobWatcher): Promise<RunSummary> =>
    runDrop(context, drop, watching(watcher)),

  keepFile: async (context: Context, { upload, name }: { upload: string; name: string }) => ({
    value: await keepBytes(context.dataFolder, await readFile(upload), name),
  }),

  proof: (context: Context, { loopId }: { loopId: string }, watcher: JobWatcher) => proofOfLoop(context, { loopId }, watching(watcher)),

  proofOfRun: (context: Context, { runId }: { runId: string }, watcher: JobWatcher) => proofOfRun(context, { runId }, watching(watcher)),

  proofSmall: (context: Context, { loopId, path }: { loopId: string; path: string }) => proofSmall(context, { loopId, path }),

  touchUpPicture: (context: Context, edit: TouchUpEdit) => touchUpPicture(context, edit),

  importTouchUps: async (context: Context, { loopId, upload }: { loopId: string; upload: string }) =>
    importTouchUps(context, loopId, await readFile(upload, 'utf8')),

  importMacro: async (context: Context, { upload, name }: { upload: string; name: string }): Promise<ShelfMacro> =>
    importFile(context, await readFile(upload), name),

  importLoop: async (context: Context, { upload, name }: { upload: string; name: string }): Promise<Loop> =>
    importLoop(context, await readFile(upload), name),

  rootsThere: (context: Context, _: Readonly<Record<never, never>>) => rootsThere(context),

  checkRoots: (_: Context, { paths }: { paths: readonly string[] }) => checkRoots(paths),

  /** What lies in a loop's intake, as one value that changes with it. */
  intakeStamp: (context: Context, { loopId }: { loopId: string }, watcher: JobWatcher) =>
    intakeStamp(context, loopById(context, loopId), () => watcher.onProgress(null)),

  /** @returns whether a run was started */
  startOverNew: async (context: Context, { loopId }: { loopId: string }, watcher: JobWatcher) =>
    (await startOverNew(context, loopById(context, loopId), watching(watcher))) !== undefined,

  /** What is to be done once all of a run's pictures are: reports, and nothing unfinished is left behind. */
  endRun: async (context: Context, { runId }: { runId: string }, { onProgress }: JobWatcher): Promise<void> => {
    const run = store.findRun(context.db, runId)
    if (!run) return
    await clearAllUnfinished(context, run)
    await gatherRun(context, run, { onProgress: () => onProgress(null) })
    await writeReports(context, run)
    const ended = store.findRun(context.db, runId)
    if (ended) await tellEnd(context, ended)
  },

  makePages: (context: Context, pages: PagesAfterwards, { onProgress }: JobWatcher) =>
    makePages(context, pages, { onProgress: () => onProgress(null) }),

  makePagesAgain: (context: Context, { runId }: { runId: string }, { onProgress }: JobWatcher) =>
    makePagesAgain(context, runId, { onProgress: () => onProgress(null) }),

  /** Clears what a lost worker may have left of one picture. */
  clearItem: async (context: Context, { runId, itemId }: { runId: string; itemId: number }): Promise<void> => {
    const run = store.findRun(context.db, runId)
    for (const { id, deliveryId, targetPath } of store.resultsOf(context.db, itemId)) {
      const base = run?.deliveries.find((delivery) => delivery.id === deliveryId)?.folder
      if (base) await clearUnfinished(base, [dirname(targetPath)], runId, id)
    }
  },
} as const

async function clearAllUnfinished({ db }: Context, run: store.StoredRun): Promise<void> {
  const items = store.listItemsBriefly(db, run.id)
  for (const { id, folder, gather } of run.deliveries.map(completeDelivery)) {
    if (gather) await clearUnfinished(gather.folder, [gather.folder], run.id)
    const folders = new Set(
      items.flatMap(({ results }) => results.flatMap(({ deliveryId, targetPath }) => (deliveryId === id ? dirname(targetPath) : []))),
    )
    await clearUnfinished(folder, folders, run.id)
  }
}

export type HelperCalls = typeof helperCalls
export type HelperCall = keyof HelperCalls

/** A call as it crosses the boundary. */
export interface CallMessage {
  readonly call: HelperCall
  readonly args: unknown
}

/** Carries a call out. */
export function carryOut(context: Context, { call, args }: CallMessage, watcher: JobWatcher): unknown {
  // What comes in has been asked by `HelperPool.ask`, which knows each call's arguments.
  const work = helperCalls[call] as ((context: Context, args: unknown, watcher: JobWatcher) => unknown) | undefined
  if (!work) throw new AppError('internal', { reason: `there is no helper for ${String(call)}` })
  return work(context, args, watcher)
}
