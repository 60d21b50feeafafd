import { AppError, reportOf } from '@/core/errors'
import type { Asset } from '@/core/kept-file'
import type { Step } from '@/macro/step'
import { fetchAssets, fetchPicture, loadKernels } from './loading'
import { Sample, type SamplePicture, sampleEdge } from './sample'

/*
 * The tray's thread, apart from the stage's so that neither waits for the other. A new wish ends the one before it.
 */

export interface ToSamplesWorker {
  readonly paths: readonly string[]
  readonly steps: readonly Step[]
}
export type FromSamplesWorker =
  | { readonly type: 'rendered'; readonly path: string; readonly picture: SamplePicture }
  | { readonly type: 'failed'; readonly path: string; readonly sentence: string }

const post = (message: FromSamplesWorker, transfer: Transferable[] = []): void => (self as unknown as Worker).postMessage(message, transfer)

const samples = new Map<string, Promise<Sample>>()
const assets = new Map<string, Asset>()
let newest = 0

async function open(path: string): Promise<Sample> {
  const picture = await fetchPicture(path, sampleEdge)
  return new Sample(await loadKernels(), picture, { facts: picture.facts, name: path.slice(path.lastIndexOf('/') + 1) }, assets)
}

/** Lets messages in that came meanwhile. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve))

async function renderAll({ paths, steps }: ToSamplesWorker): Promise<void> {
  const wish = ++newest
  for (const known of samples.keys()) if (!paths.includes(known)) samples.delete(known)
  for (const path of paths) {
    await breathe()
    if (wish !== newest) return
    try {
      const sample = samples.get(path) ?? open(path)
      samples.set(path, sample)
      const ready = await sample
      await fetchAssets(assets, steps)
      if (wish !== newest) return
      const picture = ready.render(steps)
      post({ type: 'rendered', path, picture }, [picture.pixels.buffer])
    } catch (error) {
      samples.delete(path)
      const report = reportOf(error)
      post({ type: 'failed', path, sentence: new AppError(report.code, report.details).message })
    }
  }
}

self.onmessage = ({ data }: MessageEvent<ToSamplesWorker>) => void renderAll(data)
