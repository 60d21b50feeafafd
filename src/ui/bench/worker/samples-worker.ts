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
  /** It is changed again and again: what is nearly true comes first where that is quicker, the true picture when hands rest. */
  readonly isInHand?: boolean
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

/** A picture as it is worked on, with what it takes to show it in haste. */
interface Opened {
  readonly sample: Sample
  /** The same smaller, with memory of its own, and put through these steps once: it holds what comes before those that change. */
  coarse(steps: readonly Step[]): Promise<Sample>
}

/** Long edge of pictures shown in haste where a change takes more than colours: a quarter of the pixels. */
const coarseEdge = 880

const samples = new Map<string, Promise<Opened>>()
const assets = new Map<string, Asset>()
/** What each wish was answered with last: its copy and steps, in words. */
const sent = new Map<string, string>()
let newest = 0

async function open({ path, edge }: SampleWish): Promise<Opened> {
  const { source, facts } = await fetchPicture(path, edge ?? sampleEdge)
  const subject = { facts, name: path.slice(path.lastIndexOf('/') + 1) }
  const sample = new Sample(await loadKernels(), source, subject, assets, edge)
  let coarse: Promise<Sample> | undefined
  return {
    sample,
    coarse: (steps) => {
      coarse ??= loadKernels('coarse').then((kernels) => {
        const made = new Sample(kernels, source, subject, assets, coarseEdge, sample.found)
        made.render(steps)
        return made
      })
      return coarse
    },
  }
}

/** Nearly the picture, in a fraction of the time: its colours alone where no more has changed, else a smaller one. */
async function inHaste({ sample, coarse }: Opened, steps: readonly Step[]): Promise<SamplePicture> {
  const quick = sample.renderQuickly(steps)
  if (quick) return quick
  const small = await coarse(steps)
  return { ...small.render(steps), enlarged: sample.edge / small.edge }
}

const postPicture = (key: string, picture: SamplePicture): void => post({ type: 'rendered', key, picture }, [picture.pixels.buffer])

/** Which copy of which picture a wish is for. */
const copyOf = ({ path, edge }: SampleWish): string => `${edge ?? sampleEdge} ${path}`

/** Changes in quick succession come closer together than this. */
const restMs = 250

const rest = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, restMs))

/** Lets messages in that came meanwhile. By a message of its own: timers in a row wait for four milliseconds each. */
function breathe(): Promise<void> {
  const { port1, port2 } = new MessageChannel()
  return new Promise((resolve) => {
    port1.onmessage = () => {
      port1.close()
      resolve()
    }
    port2.postMessage(null)
  })
}

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
      const opening = samples.get(copyOf(wish)) ?? open(wish)
      samples.set(copyOf(wish), opening)
      const opened = await opening
      await fetchAssets(assets, steps)
      if (list !== newest) return
      if (wish.isInHand && sent.has(key)) {
        postPicture(key, await inHaste(opened, steps))
        await rest()
        if (list !== newest) return
      }
      postPicture(key, opened.sample.render(steps, { wantsTraits: wish.edge === undefined }))
      sent.set(key, said)
    } catch (error) {
      samples.delete(copyOf(wish))
      sent.delete(key)
      const report = reportOf(error)
      post({ type: 'failed', key, sentence: new AppError(report.code, report.details).message })
    }
  }
  await prepare(wishes.find(({ isInHand }) => isInHand))
}

/** What is put behind the steps of the picture in hand next is quick the first time, too. */
async function prepare(wish: SampleWish | undefined): Promise<void> {
  const opened = wish && sent.has(wish.key) && (await samples.get(copyOf(wish)))
  if (!opened) return
  opened.sample.prepare(wish.steps)
  await opened.coarse(wish.steps)
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
