import { instantiateKernels, type Kernels } from '@kernels/binding'
import { AppError, reportOf } from '@/core/errors'
import { type Asset, keptFileHash, keptFileName } from '@/core/kept-file'
import type { InterleavedSource } from '@/core/picture'
import { facesOf, keptFilesOf } from '@/macro/kept-files'
import type { Step } from '@/macro/step'
import type { PixelHeader } from '@/server/pictures'
import type { FromBenchWorker, ToBenchWorker } from './protocol'
import { PictureSession } from './session'

/*
 * The bench's own thread: holds the open pictures and renders them with the same kernels and engine as a run.
 * Messages are worked off in order; the client sends no new one of a kind before the last was answered.
 */

const post = (message: FromBenchWorker, transfer: Transferable[] = []): void => (self as unknown as Worker).postMessage(message, transfer)

let kernels: Promise<Kernels> | undefined
const sessions = new Map<string, Promise<PictureSession>>()

function loadKernels(): Promise<Kernels> {
  kernels ??= WebAssembly.compileStreaming(fetch(new URL('/kernels.wasm', self.location.origin))).then(instantiateKernels)
  return kernels
}

async function open(path: string): Promise<PictureSession> {
  const response = await fetch(`${self.location.origin}/api/pictures/pixels?${new URLSearchParams({ path })}`)
  if (!response.ok) {
    const body = await response.json()
    throw new AppError(body.code, body.details)
  }
  const buffer = await response.arrayBuffer()
  const headerBytes = new DataView(buffer).getUint32(0, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, headerBytes))) as PixelHeader
  const at = 4 + headerBytes
  const count = header.size.width * header.size.height
  const values = header.bits === 16 ? new Uint16Array(buffer, at) : new Uint8Array(buffer, at)
  const [pixels, alpha] = [values.subarray(0, count * 3), header.hasOpacity ? values.subarray(count * 3) : undefined]
  const source: InterleavedSource = { kind: 'interleaved', size: header.size, colour: header.colour, pixels, alpha }
  post({ type: 'opened', path, fullSize: header.size, facts: header.facts })
  return new PictureSession(await loadKernels(), source, { facts: header.facts, name: path.slice(path.lastIndexOf('/') + 1) }, assets)
}

const assets = new Map<string, Asset>()

/** Fetches the files that steps name and that are not here yet. One that is gone is told by the step that needs it. */
async function fetchAssets(steps: readonly Step[]): Promise<void> {
  for (const value of keptFilesOf(steps)) {
    const [hash, name] = [keptFileHash(value), keptFileName(value)]
    if (assets.has(hash)) continue
    const response = await fetch(`${self.location.origin}/api/files/${hash}?${new URLSearchParams({ name })}`)
    if (response.ok) assets.set(hash, assetOf(await response.arrayBuffer()))
  }
  for (const key of facesOf(steps)) {
    if (assets.has(key)) continue
    const response = await fetch(`${self.location.origin}/fonts/${key.replace(/^font:/, '')}.woff`)
    if (response.ok) assets.set(key, { kind: 'font', bytes: await response.arrayBuffer() })
  }
}

function assetOf(buffer: ArrayBuffer): Asset {
  const headerBytes = new DataView(buffer).getUint32(0, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, headerBytes)))
  return header.kind === 'image'
    ? { ...header, pixels: new Uint8Array(buffer, 4 + headerBytes) }
    : { ...header, look: { ...header.look, values: new Float32Array(buffer, 4 + headerBytes) } }
}

/** Only the picture on the bench is kept: a second one of 24 megapixels would double the memory. */
function session(path: string): Promise<PictureSession> {
  const known = sessions.get(path) ?? open(path)
  sessions.clear()
  sessions.set(path, known)
  return known
}

async function handle(message: ToBenchWorker): Promise<void> {
  const path = message.type === 'render' ? message.request.path : message.path
  const id = message.type === 'open' ? null : message.type === 'render' ? message.request.id : message.id
  try {
    const picture = await session(path)
    if (message.type !== 'open') await fetchAssets(message.type === 'render' ? message.request.steps : message.steps)
    if (message.type === 'render') {
      const view = picture.render(message.request)
      post({ type: 'rendered', view }, [view.pixels.buffer])
    } else if (message.type === 'beads') {
      post({ type: 'beads', id: message.id, path, pictures: picture.beadPictures(message.steps) })
    }
  } catch (error) {
    sessions.delete(path)
    const report = reportOf(error)
    post({ type: 'failed', id, path, report, sentence: new AppError(report.code, report.details).message })
  }
}

let queue: Promise<void> = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<ToBenchWorker>) => {
  queue = queue.then(() => handle(data))
}
