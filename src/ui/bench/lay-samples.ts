import { routes } from '@/contract/routes'
import { call } from '../api/client'
import { maxSamples, useBench } from './store'

/** Puts pictures in the tray and one of them on the stage; kept for the next visit. */
export function showSamples(samples: readonly string[], shown: string | null): void {
  const { sample, set } = useBench.getState()
  const changes = shown !== (sample?.path ?? null)
  set(
    changes
      ? {
          samples,
          sample: shown ? { path: shown, fullSize: null, facts: null, isWhole: false, error: null } : null,
          view: { kind: 'fit' },
          tool: null,
          strip: null,
        }
      : { samples },
  )
  void call(routes.layOnBench, { body: changes ? { samples, samplePath: shown } : { samples } })
}

/** Lays a picture on the stage, and in the tray if it is not there. */
export function laySample(path: string): void {
  const { samples } = useBench.getState()
  showSamples(samples.includes(path) ? samples : [...samples, path].slice(-maxSamples), path)
}

/** Lays pictures in the tray, the first of them on the stage; what lay there longest makes room. */
export function layAll(paths: readonly string[]): void {
  const { samples } = useBench.getState()
  const all = [...samples, ...paths.filter((path) => !samples.includes(path))].slice(-maxSamples)
  showSamples(all, paths.find((path) => all.includes(path)) ?? null)
}

/** Puts pictures in front of the tray from another page: what lay there follows, as far as there is room. */
export async function putInTray(paths: readonly string[]): Promise<void> {
  const { samples } = await call(routes.bench, {})
  const all = [...paths, ...samples.filter((path) => !paths.includes(path))].slice(0, maxSamples)
  await call(routes.layOnBench, { body: { samples: all, samplePath: all[0] ?? null } })
}

/** Takes pictures that were dropped; the last one that can be read lies on the stage. @returns what went wrong, in sentences */
export async function dropFiles(files: readonly File[]): Promise<string[]> {
  const problems: string[] = []
  for (const file of files.slice(0, maxSamples)) {
    try {
      laySample((await call(routes.dropPicture, { asked: { name: file.name } }, { file })).path)
    } catch (problem) {
      problems.push(problem instanceof Error ? problem.message : String(problem))
    }
  }
  return problems
}
