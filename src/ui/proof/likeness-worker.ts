import { AppError, reportOf } from '@/base/errors'
import { lruCached } from '@/base/lru-cache'
import { fileNameOf } from '@/base/paths'
import { likeSiblings } from '@/engine/like-siblings'
import { Sample } from '@/engine/sample'
import type { Step } from '@/macros/step'
import type { Asset } from '@/pixels/kept-file'
import { cloudOf, type Shift } from '@/pixels/likeness'
import { fetchAssets, fetchPicture, loadKernels } from '../bench/worker/loading'
import { thisThread } from '../bench/worker/thread'
import { relitSteps } from './nudges'

/* Finds what brings a picture among its siblings, on a thread of its own: nudges don't wait for it. */

interface Wanted {
  readonly path: string
  readonly steps: readonly Step[]
}

export interface ToLikenessWorker {
  readonly id: number
  readonly own: Wanted
  readonly siblings: readonly Wanted[]
}
export type FromLikenessWorker = { readonly id: number } & ({ readonly shift: Shift } | { readonly sentence: string })

const thread = thisThread<ToLikenessWorker, FromLikenessWorker>()

/** Long edge of the copies that are compared: colours need no more. */
const edge = 256
const keptSamples = 24
const samples = new Map<string, Promise<Sample>>()
const assets = new Map<string, Asset>()

const sampleOf = (path: string): Promise<Sample> =>
  lruCached(samples, path, keptSamples, async () => {
    const { source, facts } = await fetchPicture(path, edge)
    return new Sample(await loadKernels(), source, { facts, name: fileNameOf(path) }, assets, edge)
  })

async function rendered({ path, steps }: Wanted) {
  const sample = await sampleOf(path)
  await fetchAssets(assets, steps)
  const { size, pixels } = sample.render(steps)
  return { size, values: pixels, channels: 4 }
}

async function find({ own, siblings }: ToLikenessWorker): Promise<Shift> {
  const clouds = []
  // A sibling that can't be read tells nothing.
  for (const sibling of siblings)
    clouds.push(
      ...(await rendered(sibling)
        .then((codes) => [cloudOf(codes)])
        .catch(() => [])),
    )
  const sample = await sampleOf(own.path)
  await fetchAssets(assets, own.steps)
  return likeSiblings((shift) => {
    const { size, pixels } = sample.render([...relitSteps(shift), ...own.steps])
    return { size, values: pixels, channels: 4 }
  }, clouds)
}

self.onmessage = async ({ data }: MessageEvent<ToLikenessWorker>) => {
  const { id } = data
  try {
    thread.postMessage({ id, shift: await find(data) }, [])
  } catch (error) {
    samples.delete(data.own.path)
    const report = reportOf(error)
    thread.postMessage({ id, sentence: new AppError(report.code, report.details).message }, [])
  }
}
