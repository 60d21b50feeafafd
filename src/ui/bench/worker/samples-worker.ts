import { AppError, reportOf } from '@/base/errors'
import { writeCube } from '@/colour/cube'
import { isLook, renderLook } from '@/engine/macro-as-look'
import { resolveSteps } from '@/engine/resolve'
import { Sample, type SamplePicture, sampleEdge } from '@/engine/sample'
import { type Step, stepName } from '@/macros/step'
import type { Asset } from '@/pixels/kept-file'
import { fetchAssets, fetchPicture, loadKernels } from './loading'
import { thisThread } from './thread'

/*
 * Small pictures of what steps do, on a thread apart from the stage's so that neither waits for the other. A new list of wishes
 * ends the one before it.
 */

export interface SampleWish {
  readonly key: string
  readonly path: string
  readonly steps: readonly Step[]
  /** Long edge of the copy that is worked on, if not that of samples. */
  readonly edge?: number
}

export type ToSamplesWorker =
  | { readonly type: 'render'; readonly wishes: readonly SampleWish[] }
  | { readonly type: 'look'; readonly name: string; readonly steps: readonly Step[] }

export type FromSamplesWorker =
  | { readonly type: 'rendered'; readonly key: string; readonly picture: SamplePicture }
  | { readonly type: 'failed'; readonly key: string; readonly sentence: string }
  /** A `.cube` file's text, or why the steps can't be one. */
  | { readonly type: 'look'; readonly name: string; readonly text: string | null; readonly sentence: string | null }

const thread = thisThread<ToSamplesWorker, FromSamplesWorker>()
const post = (message: FromSamplesWorker, transfer: Transferable[] = []): void => thread.postMessage(message, transfer)

const samples = new Map<string, Promise<Sample>>()
const assets = new Map<string, Asset>()
/** What each wish was answered with last: its copy and steps, in words. */
const sent = new Map<string, string>()
let newest = 0

async function open({ path, edge }: SampleWish): Promise<Sample> {
  const { source, facts } = await fetchPicture(path, edge ?? sampleEdge)
  return new Sample(await loadKernels(), source, { facts, name: path.slice(path.lastIndexOf('/') + 1) }, assets, edge)
}

/** Which copy of which picture a wish is for. */
const copyOf = ({ path, edge }: SampleWish): string => `${edge ?? sampleEdge} ${path}`

/** Lets messages in that came meanwhile. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve))

async function renderAll(wishes: readonly SampleWish[]): Promise<void> {
  const list = ++newest
  for (const known of samples.keys()) if (!wishes.some((wish) => copyOf(wish) === known)) samples.delete(known)
  for (const key of sent.keys()) if (!wishes.some((wish) => wish.key === key)) sent.delete(key)
  for (const wish of wishes) {
    const { key, steps } = wish
    const said = JSON.stringify([copyOf(wish), steps])
    // The page has it: it keeps what it wishes for.
    if (sent.get(key) === said) continue
    await breathe()
    if (list !== newest) return
    try {
      const sample = samples.get(copyOf(wish)) ?? open(wish)
      samples.set(copyOf(wish), sample)
      const ready = await sample
      await fetchAssets(assets, steps)
      if (list !== newest) return
      const picture = ready.render(steps, { wantsTraits: wish.edge === undefined })
      post({ type: 'rendered', key, picture }, [picture.pixels.buffer])
      sent.set(key, said)
    } catch (error) {
      samples.delete(copyOf(wish))
      sent.delete(key)
      const report = reportOf(error)
      post({ type: 'failed', key, sentence: new AppError(report.code, report.details).message })
    }
  }
}

/** Any size does: a look knows no places. */
const anySize = { width: 1, height: 1 }

async function makeLook(name: string, steps: readonly Step[]): Promise<void> {
  await fetchAssets(assets, steps)
  const resolved = resolveSteps(steps, anySize, { assets })
  const index = steps.findIndex((_, i) => !isLook(resolved.slice(i, i + 1)))
  const culprit = steps[index]
  if (culprit) {
    const sentence = `${stepName(culprit)} (step ${index + 1}) looks at places or neighbours: a look table can’t hold that.`
    post({ type: 'look', name, text: null, sentence })
  } else post({ type: 'look', name, text: writeCube(renderLook(await loadKernels(), resolved), name), sentence: null })
}

self.onmessage = ({ data }: MessageEvent<ToSamplesWorker>) =>
  void (data.type === 'render' ? renderAll(data.wishes) : makeLook(data.name, data.steps))
