import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { windowHeader } from '@/contract/window'
import type { Loop } from '@/jobs/loop'
import type { Macro } from '@/macros/macro'
import type { Step } from '@/macros/step'
import type { BenchRecord } from '@/services/bench'
import type { FolderListing } from '@/services/folders'
import type { StandingStart } from '@/services/loops'
import type { BinnedMacro, MacroRevision, ShelfMacro } from '@/services/macros'
import type { IntakeProgress } from '@/services/preflight/intake'
import type { PreflightLine, PreflightView } from '@/services/preflight/view'
import type { RunnerState } from '@/services/runner-watch'
import type { RunDetail, RunSteps, RunSummary, RunsPage, RunWishes } from '@/services/runs/runs'
import type { ShownSettings } from '@/web/shown-settings'
import { ApiError, get, post, postForLines, postWhileLeaving, remove, sendFile, withQuery } from './client'

/** Tells this window's changes from those of others. */
const windowId = typeof crypto === 'undefined' ? '' : crypto.randomUUID()

/** All server state goes through these hooks; components hold none of it. */

export const keys = {
  status: ['status'] as const,
  macros: ['macros'] as const,
  macro: (id: string) => ['macros', id] as const,
  revisions: (id: string) => ['macros', id, 'revisions'] as const,
  bin: ['macros', 'bin'] as const,
  benchSample: ['bench', 'sample'] as const,
  settings: ['settings'] as const,
  loops: ['loops'] as const,
  starts: ['loops', 'starts'] as const,
  runs: ['runs'] as const,
  olderRuns: (before: number | null) => ['older-runs', before] as const,
  lastRuns: ['runs', 'last'] as const,
  run: (id: string) => ['run', id] as const,
  folder: (path: string | undefined) => ['folder', path ?? ''] as const,
}

export const useStatus = () =>
  useQuery({ queryKey: keys.status, queryFn: () => get<{ runner: RunnerState; roots: string[] }>('/api/status') })
export const useMacros = () => useQuery({ queryKey: keys.macros, queryFn: () => get<ShelfMacro[]>('/api/macros') })
export const useMacro = (id: string) => useQuery({ queryKey: keys.macro(id), queryFn: () => get<ShelfMacro>(`/api/macros/${id}`) })
export const useRevisions = (id: string) =>
  useQuery({ queryKey: keys.revisions(id), queryFn: () => get<MacroRevision[]>(`/api/macros/${id}/revisions`) })
export const useBin = () => useQuery({ queryKey: keys.bin, queryFn: () => get<BinnedMacro[]>('/api/macros/bin') })
/** The picture on the bench: what macros are shown on. */
export const useBenchSample = () =>
  useQuery({ queryKey: keys.benchSample, queryFn: async () => (await get<BenchRecord>('/api/bench')).samplePath })
export const useSettings = () => useQuery({ queryKey: keys.settings, queryFn: () => get<ShownSettings>('/api/settings') })
export const useLoops = () => useQuery({ queryKey: keys.loops, queryFn: () => get<Loop[]>('/api/loops') })
/** When loops start by themselves next, and why they could not. The runner decides that, so it is looked at again now and then. */
export const useStarts = () =>
  useQuery({ queryKey: keys.starts, queryFn: () => get<StandingStart[]>('/api/loops/starts'), refetchInterval: 15_000 })
export const useRuns = () => useQuery({ queryKey: keys.runs, queryFn: async () => (await get<RunsPage>('/api/runs')).runs })
/** Runs that ended before those of `useRuns`, a page at a time. */
export const useOlderRuns = (before: number | null) =>
  useInfiniteQuery({
    queryKey: keys.olderRuns(before),
    queryFn: ({ pageParam }) => get<RunsPage>(withQuery('/api/runs', { before: pageParam ?? undefined })),
    initialPageParam: before,
    getNextPageParam: (page) => page.before,
    enabled: before !== null,
    staleTime: Number.POSITIVE_INFINITY,
  })
/** The last run of each loop, by loop. */
export const useLastRuns = () =>
  useQuery({ queryKey: keys.lastRuns, queryFn: () => get<Record<string, RunSummary>>('/api/loops/last-runs') })
export const useRun = (id: string) => useQuery({ queryKey: keys.run(id), queryFn: () => get<RunDetail>(`/api/runs/${id}`) })
export const useFolder = (path: string | undefined, enabled = true) =>
  useQuery({ queryKey: keys.folder(path), queryFn: () => get<FolderListing>(withQuery('/api/folders', { path })), enabled })

/** A loop as far as a preflight looks at it: what it is called matters only where names of files say it. */
export const checkedPart = (loop: Loop): Loop => {
  const saysName = JSON.stringify(loop.deliveries).includes('{loop')
  return { ...loop, name: saysName ? loop.name || '–' : '–', start: { when: 'byHand' }, version: 0 }
}

/** What would happen to a loop as it stands on the page, and how far the look is. Asked again whenever something of it changes that matters. */
export function usePreflight(loop: Loop): { check: PreflightView | undefined; isFetching: boolean; progress: IntakeProgress | undefined } {
  const [progress, setProgress] = useState<IntakeProgress>()
  const checked = checkedPart(loop)
  const { data: check, isFetching } = useQuery({
    queryKey: ['preflight', checked],
    queryFn: async ({ signal }) => {
      setProgress(undefined)
      for await (const line of postForLines<PreflightLine>('/api/loops/preflight', checked, signal)) {
        if ('problem' in line) throw new ApiError(line.problem, line.problem.sentence, 0)
        if ('check' in line) return line.check
        setProgress(line.progress)
      }
      throw new ApiError({ code: 'internal', details: { reason: 'the answer broke off' } }, 'The check broke off. Try it again.', 0)
    },
    placeholderData: (before) => before,
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

export const useKeepMacro = () => useChange((macro: Macro) => post<ShelfMacro>('/api/macros', macro), [keys.macros])
export const useReviseMacro = () =>
  useChange(({ id, steps }: { id: string; steps: readonly Step[] }) => post<ShelfMacro>(`/api/macros/${id}`, { steps }), [keys.macros])
/** A macro file, a bundle or a look, as it was chosen. */
export const useImportFile = () =>
  useChange((file: File) => sendFile<ShelfMacro>(withQuery('/api/macros/import-file', { name: file.name }), file), [keys.macros])
export const useDescribeMacro = () =>
  useChange(
    ({ id, ...about }: { id: string } & Pick<Macro, 'name' | 'notes' | 'tags'>) => post<ShelfMacro>(`/api/macros/${id}/about`, about),
    [keys.macros, keys.loops],
  )
export const useDuplicateMacro = () => useChange((id: string) => post<ShelfMacro>(`/api/macros/${id}/duplicate`), [keys.macros])
export const useRestoreMacro = () => useChange((id: string) => post<ShelfMacro>('/api/macros/bin', { id }), [keys.macros])
export const useBinMacro = () => useChange((id: string) => remove(`/api/macros/${id}`), [keys.macros])
export const useNameRoots = () =>
  useChange((roots: readonly string[]) => post<ShownSettings>('/api/settings/roots', { roots }), [keys.settings, keys.status, ['folder']])
export const useClearCache = () => useChange(() => post<ShownSettings>('/api/settings/cache'), [keys.settings])
export const useMakeBackup = () => useChange(() => post<ShownSettings>('/api/settings/backup'), [keys.settings])
export const useSetMachine = () =>
  useChange((machine: { workers?: number; cacheMb?: number }) => post<ShownSettings>('/api/settings/machine', machine), [keys.settings])
export const useRestoreBackup = () => useChange((name: string) => post<ShownSettings>('/api/settings/restore', { name }), [keys.settings])
export const useSaveLoop = () =>
  useChange((loop: Loop) => post<Loop>('/api/loops', loop, { [windowHeader]: windowId }), [keys.loops, keys.macros])
/** For the last moment of a page. */
export const saveLoopWhileLeaving = (loop: Loop): void => postWhileLeaving('/api/loops', loop, { [windowHeader]: windowId })
/** What of a run's macros was frozen when it was made. */
export const stepsOfRun = (id: string) => get<RunSteps>(`/api/runs/${id}/steps`)
export const useBinLoop = () => useChange((id: string) => remove(`/api/loops/${id}`), [keys.loops, keys.macros])
export const useStartRun = () =>
  useChange(({ loopId, ...wishes }: { loopId: string } & RunWishes) => post<RunSummary>(`/api/loops/${loopId}/run`, wishes), [keys.runs])
export const useTryLoop = () =>
  useChange(
    ({ loopId, answers }: { loopId: string } & Pick<RunWishes, 'answers'>) => post<RunSummary>(`/api/loops/${loopId}/try`, { answers }),
    [keys.runs],
  )
export const useStopRun = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/stop`), [keys.runs])
export const usePauseRun = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/pause`), [keys.runs])
export const useMoveRunUp = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/up`), [keys.runs])
export const useStartRunNow = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/start-now`), [keys.runs])
export const useGoOn = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/go-on`), [keys.runs])
