import { AppError, reportOf } from '@/base/errors'
import { fileNameOf } from '@/base/paths'
import { fullSizeOf } from '@/engine/source'
import { isRawName } from '@/jobs/picture-names'
import type { Step } from '@/macros/step'
import type { Asset } from '@/pixels/kept-file'
import { fetchAssets, fetchPicture, loadKernels } from './loading'
import { type LowerPart, LowerPartClient } from './lower-part'
import { OpenPicture } from './open-picture'
import type { FromBenchWorker, ToBenchWorker } from './protocol'
import { PictureSession } from './session'
import { thisThread } from './thread'
import { beadsThatCan, renderWhatCan, timesThatCan } from './what-can'

/*
 * The bench's own thread: holds the open pictures and renders them with the same kernels and engine as a run.
 * Messages are worked off in order; the client sends no new one of a kind before the last was answered.
 */

const thread = thisThread<ToBenchWorker, FromBenchWorker>()
const post = (message: FromBenchWorker, transfer: Transferable[] = []): void => thread.postMessage(message, transfer)

const assets = new Map<string, Asset>()
let lowerPart: LowerPart | undefined
/** Only the picture on the bench is kept: a second one of 24 megapixels would double the memory. */
let onBench: { readonly path: string; readonly picture: OpenPicture } | undefined

function open(path: string): OpenPicture {
  if (onBench?.path === path) return onBench.picture
  const name = fileNameOf(path)
  const picture = new OpenPicture({
    isRaw: isRawName(path),
    fetch: (edge) => fetchPicture(path, edge),
    begin: async ({ source, facts }) => new PictureSession(await loadKernels(), source, { facts, name }, assets, lowerPart),
    opened: ({ facts, source }, isWhole) => {
      if (onBench?.picture === picture) post({ type: 'opened', path, fullSize: fullSizeOf(source), facts, isWhole })
    },
    failed: (error) => onBench?.picture === picture && fail(path, null, false, error),
  })
  onBench = { path, picture }
  return picture
}

function fail(path: string, id: number | null, isOpen: boolean, error: unknown): void {
  const report = reportOf(error)
  post({ type: 'failed', id, isOpen, path, report, sentence: new AppError(report.code, report.details).message })
}

/** What is asked of a picture. */
type Wish = Exclude<ToBenchWorker, { readonly type: 'lowerPart' | 'recycle' }>

function stepsOf(message: Wish): readonly Step[] {
  if (message.type === 'open') return []
  if (message.type === 'strip') return message.request.variants.flat()
  return 'request' in message ? message.request.steps : message.steps
}

/** Whether only the picture's own pixels will do: a copy shows it fitted, and small. */
const wantsTruth = (message: Wish): boolean =>
  message.type === 'strip' || message.type === 'times' || (message.type === 'render' && message.request.view.kind === 'region')

/** @param hasWaited for true pixels: its picture may have been taken off the bench meanwhile */
async function handle(message: Wish, hasWaited = false): Promise<void> {
  const wish = 'request' in message ? message.request : message
  const { path } = wish
  const id = 'id' in wish ? wish.id : null
  if (hasWaited && onBench?.path !== path) return fail(path, id, true, new AppError('internal', { reason: 'the picture has gone' }))
  let isOpen = false
  const opening = open(path)
  if (wantsTruth(message) && !opening.isSettled) return void handleLater(message, opening)
  try {
    const picture = await (wantsTruth(message) ? opening.forTruth() : opening.forLooking())
    isOpen = true
    // A file that is not to be had is told by the step that needs it.
    await fetchAssets(assets, stepsOf(message)).catch(() => undefined)
    if (message.type === 'render') {
      const view = await renderWhatCan(picture, message.request)
      post({ type: 'rendered', view }, view.mask ? [view.pixels.buffer, view.mask.values.buffer] : [view.pixels.buffer])
    } else if (message.type === 'strip') {
      post({ type: 'strip', id: message.request.id, path, pictures: picture.strip(message.request) })
    } else if (message.type === 'times') {
      const { id, steps, count } = message.request
      post({ type: 'times', id, path, milliseconds: timesThatCan(picture, steps, count) })
    } else if (message.type === 'beads') {
      post({ type: 'beads', id: message.id, path, pictures: beadsThatCan(picture, message.steps) })
    }
  } catch (error) {
    // Asked for again, it is read again.
    if (!isOpen && onBench?.picture === opening) onBench = undefined
    fail(path, id, isOpen, error)
  }
}

/** True pixels may be seconds away: what can do without them goes on. */
async function handleLater(message: Wish, opening: OpenPicture): Promise<void> {
  await opening.forTruth().catch(() => undefined)
  queue = queue.then(() => handle(message, true))
}

let queue: Promise<void> = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<ToBenchWorker>) => {
  if (data.type === 'lowerPart') lowerPart = new LowerPartClient(data.port)
  else if (data.type === 'recycle') {
    if (onBench?.path === data.path) onBench.picture.giveBack(data.buffer)
  } else queue = queue.then(() => handle(data))
}
