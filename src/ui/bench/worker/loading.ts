import { instantiateKernels, type Kernels } from '@kernels/binding'
import { AppError } from '@/base/errors'
import { type KeptFileHeader, type PixelHeader, unframed } from '@/contract/framing'
import { routes } from '@/contract/routes'
import { facesOf, keptFilesOf } from '@/macros/kept-files'
import type { Step } from '@/macros/step'
import { type Asset, keptFileHash, keptFileName } from '@/pixels/kept-file'
import type { InterleavedSource, PictureFacts } from '@/pixels/picture'
import { ApiError, ask } from '../../api/client'

/*
 * What the page's workers fetch: kernels, pictures, files kept with macros.
 */

let compiled: Promise<WebAssembly.Module> | undefined
const kernels = new Map<string, Promise<Kernels>>()

/** @param memory those of another name have a memory of their own */
export function loadKernels(memory = 'usual'): Promise<Kernels> {
  compiled ??= WebAssembly.compileStreaming(fetch(new URL('/kernels.wasm', self.location.origin)))
  const loaded = kernels.get(memory) ?? compiled.then(instantiateKernels)
  kernels.set(memory, loaded)
  return loaded
}

export interface FetchedPicture {
  readonly source: InterleavedSource
  readonly facts: PictureFacts
}

/** A picture's pixels, full or reduced to an edge. @throws AppError as the server told it */
export async function fetchPicture(path: string, maxEdge?: number): Promise<FetchedPicture> {
  const response = await ask(routes.pixels, { asked: { path, edge: maxEdge } }).catch((error) => {
    throw error instanceof ApiError ? new AppError(error.report.code, error.report.details) : error
  })
  const buffer = await response.arrayBuffer()
  const { header, at } = unframed<PixelHeader>(buffer)
  const count = header.size.width * header.size.height
  const values = header.bits === 16 ? new Uint16Array(buffer, at) : new Uint8Array(buffer, at)
  const [pixels, alpha] = [values.subarray(0, count * 3), header.hasOpacity ? values.subarray(count * 3) : undefined]
  return { source: { kind: 'interleaved', size: header.size, colour: header.colour, pixels, alpha }, facts: header.facts }
}

/** Fetches the files that steps name and that are not there yet. One that is gone is told by the step that needs it. */
export async function fetchAssets(assets: Map<string, Asset>, steps: readonly Step[]): Promise<void> {
  for (const value of keptFilesOf(steps)) {
    const [hash, name] = [keptFileHash(value), keptFileName(value)]
    if (assets.has(hash)) continue
    const response = await ask(routes.keptFile, { asked: { hash, name } }).catch(() => undefined)
    if (response) assets.set(hash, assetOf(await response.arrayBuffer()))
  }
  for (const key of facesOf(steps)) {
    if (assets.has(key)) continue
    const response = await fetch(`${self.location.origin}/fonts/${key.replace(/^font:/, '')}.woff`)
    if (response.ok) assets.set(key, { kind: 'font', bytes: await response.arrayBuffer() })
  }
}

function assetOf(buffer: ArrayBuffer): Asset {
  const { header, at } = unframed<KeptFileHeader>(buffer)
  if (header.kind === 'font') return { kind: 'font', bytes: buffer.slice(at) }
  return header.kind === 'image'
    ? { ...header, pixels: new Uint8Array(buffer, at) }
    : { kind: 'look', look: { ...header.look, values: new Float32Array(buffer, at) } }
}
