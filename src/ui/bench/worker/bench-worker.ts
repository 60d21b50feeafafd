import { AppError, reportOf } from '@/base/errors'
import { fileNameOf } from '@/base/paths'
import type { Step } from '@/macros/step'
import type { Asset } from '@/pixels/kept-file'
import { fetchAssets, fetchPicture, loadKernels } from './loading'
import { type LowerPart, LowerPartClient } from './lower-part'
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

const sessions = new Map<string, Promise<PictureSession>>()
const assets = new Map<string, Asset>()
let lowerPart: LowerPart | undefined

async function open(path: string): Promise<PictureSession> {
  const { source, facts } = await fetchPicture(path)
  post({ type: 'opened', path, fullSize: source.size, facts })
  return new PictureSession(await loadKernels(), source, { facts, name: fileNameOf(path) }, assets, lowerPart)
}

/** Only the picture on the bench is kept: a second one of 24 megapixels would double the memory. */
function session(path: string): Promise<PictureSession> {
  const known = sessions.get(path) ?? open(path)
  sessions.clear()
  sessions.set(path, known)
  return known
}

/** What is asked of a picture. */
type Wish = Exclude<ToBenchWorker, { readonly type: 'lowerPart' | 'recycle' }>

function stepsOf(message: Wish): readonly Step[] {
  if (message.type === 'open') return []
  if (message.type === 'strip') return message.request.variants.flat()
  return 'request' in message ? message.request.steps : message.steps
}

async function handle(message: Wish): Promise<void> {
  const wish = 'request' in message ? message.request : message
  const { path } = wish
  const id = 'id' in wish ? wish.id : null
  let isOpen = false
  try {
    const picture = await session(path)
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
    if (!isOpen) sessions.delete(path)
    const report = reportOf(error)
    post({ type: 'failed', id, isOpen, path, report, sentence: new AppError(report.code, report.details).message })
  }
}

let queue: Promise<void> = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<ToBenchWorker>) => {
  if (data.type === 'lowerPart') lowerPart = new LowerPartClient(data.port)
  else if (data.type === 'recycle') void sessions.get(data.path)?.then((picture) => picture.giveBack(data.buffer))
  else queue = queue.then(() => handle(data))
}
