import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import type { IntakeProgress, PreflightLine, PreflightView, RunWishes } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { windowHeader } from '@/contract/window'
import type { Delivery } from '@/jobs/delivery'
import type { Gather } from '@/jobs/gather'
import { type Loop, partThatMatters } from '@/jobs/loop'
import type { Macro } from '@/macros/macro'
import type { Step } from '@/macros/step'
import type { MarkKind } from '@/pixels/traits'
import { ApiError, ask, call, linesOf } from './client'

/** Tells this window's changes from those of others. */
const windowId = typeof crypto === 'undefined' ? '' : crypto.randomUUID()

/** All server state goes through these hooks; components hold none of it. */

export const keys = {
  stations: ['stations'],
  status: ['status'] as const,
  macros: ['macros'] as const,
  macro: (id: string) => ['macros', id] as const,
  revisions: (id: string) => ['macros', id, 'revisions'] as const,
  bin: ['macros', 'bin'] as const,
  benchSample: ['bench', 'sample'] as const,
  settings: ['settings'] as const,
  loops: ['loops'] as const,
  proof: (loopId: string) => ['proof', loopId] as const,
  proofOfRun: (runId: string) => ['proof', 'run', runId] as const,
  preflight: ['preflight'] as const,
  starts: ['loops', 'starts'] as const,
  runs: ['runs'] as const,
  olderRuns: (before: number | null) => ['older-runs', before] as const,
  lastRuns: ['runs', 'last'] as const,
  run: (id: string) => ['run', id] as const,
  folder: (path: string | undefined) => ['folder', path ?? ''] as const,
  place: (path: string | undefined) => ['place', path ?? ''] as const,
}

export const useStatus = () => useQuery({ queryKey: keys.status, queryFn: () => call(routes.status, {}) })
/** Other machines at work: what they say of themselves every two seconds. */
export const useStations = () => useQuery({ queryKey: keys.stations, queryFn: () => call(routes.stations, {}), refetchInterval: 2_000 })
/** The shelf; `isLookedAt`: asked for anew, since others (the command line, another window) may have put something there. */
export const useMacros = (isLookedAt = false) =>
  useQuery({ queryKey: keys.macros, queryFn: () => call(routes.macros, {}), refetchOnMount: isLookedAt ? 'always' : true })
export const useMacro = (id: string) => useQuery({ queryKey: keys.macro(id), queryFn: () => call(routes.macro, { asked: { id } }) })
export const useRevisions = (id: string) =>
  useQuery({ queryKey: keys.revisions(id), queryFn: () => call(routes.revisions, { asked: { id } }) })
export const useBin = () => useQuery({ queryKey: keys.bin, queryFn: () => call(routes.bin, {}) })
/** The picture on the bench: what macros are shown on. */
export const useBenchSample = () => useQuery({ queryKey: keys.benchSample, queryFn: async () => (await call(routes.bench, {})).samplePath })
export const useSettings = () => useQuery({ queryKey: keys.settings, queryFn: () => call(routes.settings, {}) })
/** A loop's set, to be looked through. What is touched up there is kept by the page itself. */
export const useProof = (loopId: string) =>
  useQuery({ queryKey: keys.proof(loopId), queryFn: () => call(routes.proof, { asked: { id: loopId } }), staleTime: 0, gcTime: 0 })
/** The same for the pictures of a run, as they were delivered. */
export const useProofOfRun = (runId: string) =>
  useQuery({ queryKey: keys.proofOfRun(runId), queryFn: () => call(routes.proofOfRun, { asked: { id: runId } }), staleTime: 0, gcTime: 0 })
export const useLoops = () => useQuery({ queryKey: keys.loops, queryFn: () => call(routes.loops, {}) })
/** When loops start by themselves next, and why they could not. The runner decides that, so it is looked at again now and then. */
export const useStarts = () => useQuery({ queryKey: keys.starts, queryFn: () => call(routes.starts, {}), refetchInterval: 15_000 })
export const useRuns = () => useQuery({ queryKey: keys.runs, queryFn: async () => (await call(routes.runs, { asked: {} })).runs })
/** Runs that ended before those of `useRuns`, a page at a time. */
export const useOlderRuns = (before: number | null) =>
  useInfiniteQuery({
    queryKey: keys.olderRuns(before),
    queryFn: ({ pageParam }) => call(routes.runs, { asked: { before: pageParam ?? undefined } }),
    initialPageParam: before,
    getNextPageParam: (page) => page.before,
    enabled: before !== null,
    staleTime: Number.POSITIVE_INFINITY,
  })
/** The last run of each loop, by loop. */
export const useLastRuns = () => useQuery({ queryKey: keys.lastRuns, queryFn: () => call(routes.lastRuns, {}) })
export const useRun = (id: string) => useQuery({ queryKey: keys.run(id), queryFn: () => call(routes.run, { asked: { id } }) })
/** What lies in a folder that may be used; or, `anywhere`, in one of this machine that may be named as such. */
export const useFolder = (path: string | undefined, enabled = true, anywhere = false) =>
  useQuery({
    queryKey: anywhere ? keys.place(path) : keys.folder(path),
    queryFn: () => call(anywhere ? routes.places : routes.folder, { asked: { path } }),
    enabled,
  })

/** What would happen to a loop as it stands on the page, and how far the look is. Asked again whenever something of it changes that matters. */
export function usePreflight(loop: Loop): { check: PreflightView | undefined; isFetching: boolean; progress: IntakeProgress | undefined } {
  const [progress, setProgress] = useState<IntakeProgress>()
  const checked = partThatMatters(loop)
  const { data: check, isFetching } = useQuery({
    queryKey: [...keys.preflight, checked],
    queryFn: async ({ signal }) => {
      setProgress(undefined)
      const answer = await ask(routes.preflight, { body: checked }, { signal })
      for await (const line of linesOf<PreflightLine>(answer)) {
        if ('problem' in line) throw new ApiError(line.problem, line.problem.sentence, 0)
        if ('check' in line) return line.check
        setProgress(line.progress)
      }
      throw new ApiError({ code: 'internal', details: { reason: 'the answer broke off' } }, 'The check broke off. Try it again.', 0)
    },
    placeholderData: (before) => before,
    // A run may have delivered since, and files may have come: whoever opens the page sees what holds now.
    staleTime: 0,
  })
  return { check, isFetching, progress: isFetching ? progress : undefined }
}

/**
 * A change on the server, after which what it made stale is asked for again. An answer still on its way was given before
 * the change, so it is dropped: a first answer would otherwise be shared with whoever asks next, and the change missed.
 */
function useChange<Input, Output>(work: (input: Input) => Promise<Output>, stale: readonly (readonly string[])[]) {
  const client = useQueryClient()
  const askAgain = async (queryKey: readonly string[]): Promise<void> => {
    await client.cancelQueries({ queryKey })
    await client.invalidateQueries({ queryKey })
  }
  return useMutation({ mutationFn: work, onSuccess: () => Promise.all(stale.map(askAgain)) })
}

export const useKeepMacro = () => useChange((macro: Macro) => call(routes.keepMacro, { body: macro }), [keys.macros])
export const useReviseMacro = () =>
  useChange(
    ({ id, steps }: { id: string; steps: readonly Step[] }) => call(routes.reviseMacro, { asked: { id }, body: { steps } }),
    [keys.macros],
  )
/** A macro file, a bundle or a look, as it was chosen. */
export const useImportFile = () =>
  useChange((file: File) => call(routes.importFile, { asked: { name: file.name } }, { file }), [keys.macros])
export const useDescribeMacro = () =>
  useChange(
    ({ id, ...about }: { id: string } & Pick<Macro, 'name' | 'notes' | 'tags'>) =>
      call(routes.describeMacro, { asked: { id }, body: about }),
    [keys.macros, keys.loops],
  )
export const useDuplicateMacro = () => useChange((id: string) => call(routes.duplicateMacro, { asked: { id } }), [keys.macros])
export const useRestoreMacro = () => useChange((id: string) => call(routes.restoreMacro, { body: { id } }), [keys.macros])
export const useBinMacro = () => useChange((id: string) => call(routes.binMacro, { asked: { id } }), [keys.macros])
export const useNameRoots = () =>
  useChange((roots: readonly string[]) => call(routes.nameRoots, { body: { roots } }), [keys.settings, keys.status, ['folder']])
export const useClearCache = () => useChange(() => call(routes.clearCache, {}), [keys.settings])
export const useMakeBackup = () => useChange(() => call(routes.makeBackup, {}), [keys.settings])
export const useSetMachine = () =>
  useChange((machine: { workers?: number; cacheMb?: number }) => call(routes.setMachine, { body: machine }), [keys.settings])
export const useSetInbox = () =>
  useChange((inbox: { keptDays?: number | null; clear?: boolean }) => call(routes.setInbox, { body: inbox }), [keys.settings])
export const useRestoreBackup = () => useChange((name: string) => call(routes.restoreBackup, { body: { name } }), [keys.settings])
export const useSaveLoop = () =>
  useChange((loop: Loop) => call(routes.saveLoop, { body: loop }, { headers: { [windowHeader]: windowId } }), [keys.loops, keys.macros])
/** For the last moment of a page. */
export const saveLoopWhileLeaving = (loop: Loop): void =>
  void ask(routes.saveLoop, { body: loop }, { headers: { [windowHeader]: windowId }, keepalive: true }).catch(() => undefined)
/** What of a run's macros was frozen when it was made. */
export const stepsOfRun = (id: string) => call(routes.runSteps, { asked: { id } })
export const useBinLoop = () => useChange((id: string) => call(routes.binLoop, { asked: { id } }), [keys.loops, keys.macros])
export const useRestoreLoop = () => useChange((id: string) => call(routes.restoreLoop, { asked: { id } }), [keys.loops, keys.macros])
/** A loop's file, as it was chosen. */
export const useImportLoop = () =>
  useChange((file: File) => call(routes.importLoop, { asked: { name: file.name } }, { file }), [keys.loops, keys.macros])
export const useLoopOfRun = () => useChange((id: string) => call(routes.loopOfRun, { asked: { id } }), [keys.loops, keys.macros])
/** What a loop asks before a run, as it stands now. */
export const questionsOfLoop = (id: string) => call(routes.loopQuestions, { asked: { id } })
export const useDropLostSteps = () => useChange((id: string) => call(routes.dropLostSteps, { asked: { id } }), [keys.preflight])
export const useMeasureSetAnew = () =>
  useChange((id: string) => call(routes.measureSetAnew, { asked: { id } }), [keys.preflight, ['proof']])
export const useImportTouchUps = (loopId: string) =>
  useChange((file: File) => call(routes.importTouchUps, { asked: { id: loopId, name: file.name } }, { file }), [['proof'], keys.preflight])
export const useSetSilentMarks = () =>
  useChange((silent: readonly MarkKind[]) => call(routes.setSilentMarks, { body: { silent } }), [keys.runs, ['run']])
export const useStartRun = () =>
  useChange(
    ({ loopId, ...wishes }: { loopId: string } & RunWishes) => call(routes.startRun, { asked: { id: loopId }, body: wishes }),
    [keys.runs],
  )
export const useDeliverPicture = () =>
  useChange(
    (picture: { sourcePath: string; steps: Step[]; delivery: Delivery }) => call(routes.deliverPicture, { body: picture }),
    [keys.runs],
  )
export const useMakePages = () =>
  useChange(
    (pages: { resultIds: number[]; gather: Gather; folder: string }) => call(routes.makePages, { body: pages }),
    [keys.runs, ['run']],
  )
export const useMakePagesAgain = () => useChange((id: string) => call(routes.makePagesAgain, { asked: { id } }), [keys.runs, ['run']])
export const useTryLoop = () =>
  useChange(
    ({ loopId, answers }: { loopId: string } & Pick<RunWishes, 'answers'>) =>
      call(routes.tryLoop, { asked: { id: loopId }, body: { answers } }),
    [keys.runs],
  )
export const useStopRun = () => useChange((id: string) => call(routes.stopRun, { asked: { id } }), [keys.runs])
export const usePauseRun = () => useChange((id: string) => call(routes.pauseRun, { asked: { id } }), [keys.runs])
export const useMoveRunUp = () => useChange((id: string) => call(routes.moveRunUp, { asked: { id } }), [keys.runs])
export const useStartRunNow = () => useChange((id: string) => call(routes.startRunNow, { asked: { id } }), [keys.runs])
export const useGoOn = () => useChange((id: string) => call(routes.goOn, { asked: { id } }), [keys.runs])
