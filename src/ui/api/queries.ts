import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import type { Loop } from '@/core/loop'
import type { Macro } from '@/macro/macro'
import type { Step } from '@/macro/step'
import type { BenchRecord } from '@/server/bench'
import type { FolderListing } from '@/server/folders'
import type { BinnedMacro, MacroRevision, ShelfMacro } from '@/server/macros'
import type { Preflight } from '@/server/preflight'
import type { RunResultRow, RunSummary, RunWishes } from '@/server/runs'
import type { SettingsView } from '@/server/settings'
import { get, post, remove, sendFile, withQuery } from './client'

/** All server state goes through these hooks; components hold none of it. */

export interface RunDetail {
  readonly run: RunSummary
  readonly results: readonly RunResultRow[]
  readonly originals: string
}

export const keys = {
  status: ['status'] as const,
  macros: ['macros'] as const,
  macro: (id: string) => ['macros', id] as const,
  revisions: (id: string) => ['macros', id, 'revisions'] as const,
  bin: ['macros', 'bin'] as const,
  benchSample: ['bench', 'sample'] as const,
  settings: ['settings'] as const,
  loops: ['loops'] as const,
  runs: ['runs'] as const,
  run: (id: string) => ['run', id] as const,
  folder: (path: string | undefined) => ['folder', path ?? ''] as const,
}

export const useStatus = () =>
  useQuery({ queryKey: keys.status, queryFn: () => get<{ runnerAway: boolean; roots: string[] }>('/api/status') })
export const useMacros = () => useQuery({ queryKey: keys.macros, queryFn: () => get<ShelfMacro[]>('/api/macros') })
export const useMacro = (id: string) => useQuery({ queryKey: keys.macro(id), queryFn: () => get<ShelfMacro>(`/api/macros/${id}`) })
export const useRevisions = (id: string) =>
  useQuery({ queryKey: keys.revisions(id), queryFn: () => get<MacroRevision[]>(`/api/macros/${id}/revisions`) })
export const useBin = () => useQuery({ queryKey: keys.bin, queryFn: () => get<BinnedMacro[]>('/api/macros/bin') })
/** The picture on the bench: what macros are shown on. */
export const useBenchSample = () =>
  useQuery({ queryKey: keys.benchSample, queryFn: async () => (await get<BenchRecord>('/api/bench')).samplePath })
export const useSettings = () => useQuery({ queryKey: keys.settings, queryFn: () => get<SettingsView>('/api/settings') })
export const useLoops = () => useQuery({ queryKey: keys.loops, queryFn: () => get<Loop[]>('/api/loops') })
export const useRuns = () => useQuery({ queryKey: keys.runs, queryFn: () => get<RunSummary[]>('/api/runs') })
export const useRun = (id: string) => useQuery({ queryKey: keys.run(id), queryFn: () => get<RunDetail>(`/api/runs/${id}`) })
export const useFolder = (path: string | undefined, enabled = true) =>
  useQuery({ queryKey: keys.folder(path), queryFn: () => get<FolderListing>(withQuery('/api/folders', { path })), enabled })

/** What would happen to a loop as it stands on the page. Asked again whenever the loop changes. */
export const usePreflight = (loop: Loop) =>
  useQuery({
    queryKey: ['preflight', loop],
    queryFn: () => post<Preflight>('/api/loops/preflight', loop),
    placeholderData: (before) => before,
  })

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
  useChange((roots: readonly string[]) => post<SettingsView>('/api/settings/roots', { roots }), [keys.settings, keys.status, ['folder']])
export const useClearCache = () => useChange(() => post<SettingsView>('/api/settings/cache'), [keys.settings])
export const useMakeBackup = () => useChange(() => post<SettingsView>('/api/settings/backup'), [keys.settings])
export const useSaveLoop = () => useChange((loop: Loop) => post<Loop>('/api/loops', loop), [keys.loops, keys.macros])
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
export const useGoOn = () => useChange((runId: string) => post<RunSummary>(`/api/runs/${runId}/go-on`), [keys.runs])
