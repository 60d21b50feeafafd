import { AppError, reportOf } from '@/base/errors'
import { lruCached } from '@/base/lru-cache'
import { fileNameOf } from '@/base/paths'
import { writeCube } from '@/colour/cube'
import { isLook, renderLook } from '@/engine/macro-as-look'
import { resolveSteps } from '@/engine/resolve'
import { Sample, type SamplePicture, sampleEdge } from '@/engine/sample'
import { fillSetSteps } from '@/macros/set-steps'
import { type Step, stepName } from '@/macros/step'
import { findOperation } from '@/operations'
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
  /** `isSet`: the pictures are each other's set, for steps that look at one. */
  | { readonly type: 'render'; readonly wishes: readonly SampleWish[]; readonly isSet?: boolean }
  | { readonly type: 'look'; readonly name: string; readonly steps: readonly Step[] }

export type FromSamplesWorker =
  | { readonly type: 'rendered'; readonly key: string; readonly picture: SamplePicture }
  | { readonly type: 'failed'; readonly key: string; readonly sentence: string }
  /** What was measured on the set, by the step's id. */
  | { readonly type: 'measured'; readonly values: ReadonlyMap<string, readonly number[]> }
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

// Compiled while nothing has been wished for yet; who wishes meets what went wrong.
void loadKernels().catch(() => undefined)

async function open({ path, edge }: SampleWish): Promise<Opened> {
  const { source, facts } = await fetchPicture(path, edge ?? sampleEdge)
  const subject = { facts, name: fileNameOf(path) }
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

/** What was measured on sets: by the pictures, and what comes before the step. */
const middles = new Map<string, readonly number[]>()
const maxMiddles = 20

/** The wishes with what their pictures have in common put into the steps that look at it; undefined where another list came meanwhile. */
async function measuredAsSet(wishes: readonly SampleWish[], list: number): Promise<readonly SampleWish[] | undefined> {
  const [first] = wishes
  if (!first) return wishes
  const paths = JSON.stringify(wishes.map(({ path }) => path).toSorted())
  for (;;) {
    const { macros, values, waiting } = fillSetSteps([{ steps: first.steps }], (key) => middles.get(paths + key))
    const operation = waiting && findOperation(waiting.operation)
    if (!waiting || !operation?.ofSet) {
      post({ type: 'measured', values })
      return wishes.map((wish) => ({ ...wish, steps: macros[0]?.steps ?? wish.steps }))
    }
    const measured: (readonly number[])[] = []
    for (const wish of wishes) {
      await breathe()
      if (list !== newest) return undefined
      const one = await opened(wish).then(
        ({ sample }) => sample.measure(waiting.before, operation),
        () => undefined,
      )
      if (one) measured.push(one)
    }
    lruCached(middles, paths + waiting.key, maxMiddles, () => (measured.length > 0 ? operation.ofSet?.together(measured) : undefined) ?? [])
  }
}

function opened(wish: SampleWish): Promise<Opened> {
  const opening = samples.get(copyOf(wish)) ?? open(wish)
  samples.set(copyOf(wish), opening)
  return opening
}

async function renderAll(asked: readonly SampleWish[], isSet: boolean): Promise<void> {
  const list = ++newest
  const wishes = isSet ? await measuredAsSet(asked, list) : asked
  if (!wishes || list !== newest) return
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
      const ready = await opened(wish)
      await fetchAssets(assets, steps)
      if (list !== newest) return
      if (wish.isInHand && sent.has(key)) {
        postPicture(key, await inHaste(ready, steps))
        await rest()
        if (list !== newest) return
      }
      postPicture(key, ready.sample.render(steps, { wantsTraits: wish.edge === undefined }))
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
  const ready = wish && sent.has(wish.key) && (await samples.get(copyOf(wish)))
  if (!ready) return
  ready.sample.prepare(wish.steps)
  await ready.coarse(wish.steps)
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
  void (data.type === 'render' ? renderAll(data.wishes, data.isSet ?? false) : makeLook(data.name, data.steps))
