import { instantiateKernels, type Kernels } from '@kernels/binding'
import { AppError } from '@/base/errors'
import { facesOf, keptFilesOf } from '@/macros/kept-files'
import type { Step } from '@/macros/step'
import { type Asset, keptFileHash, keptFileName } from '@/pixels/kept-file'
import type { InterleavedSource, PictureFacts } from '@/pixels/picture'
import type { PixelHeader } from '@/services/pictures'

/*
 * What the page's workers fetch: kernels, pictures, files kept with macros.
 */

let kernels: Promise<Kernels> | undefined

export function loadKernels(): Promise<Kernels> {
  kernels ??= WebAssembly.compileStreaming(fetch(new URL('/kernels.wasm', self.location.origin))).then(instantiateKernels)
  return kernels
}

export interface FetchedPicture {
  readonly source: InterleavedSource
  readonly facts: PictureFacts
}

/** A picture's pixels, full or reduced to an edge. @throws AppError as the server told it */
export async function fetchPicture(path: string, mostEdge?: number): Promise<FetchedPicture> {
  const wish = new URLSearchParams(mostEdge ? { path, edge: String(mostEdge) } : { path })
  const response = await fetch(`${self.location.origin}/api/pictures/pixels?${wish}`)
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
  return { source: { kind: 'interleaved', size: header.size, colour: header.colour, pixels, alpha }, facts: header.facts }
}

/** Fetches the files that steps name and that are not there yet. One that is gone is told by the step that needs it. */
export async function fetchAssets(assets: Map<string, Asset>, steps: readonly Step[]): Promise<void> {
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
