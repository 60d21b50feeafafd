import { workerData } from 'node:worker_threads'
import create from 'libraw-wasm/dist/libraw.js'
import type { Size } from '@/base/geometry'
import type { CameraColour } from '@/colour/camera'
import type { Vector3 } from '@/colour/matrix'
import { rebuildClipped, trueEnd } from './clipped'
import { colourOf, cropOf, exposureGain, multipliersOf, type RawMetadata, sizeOf } from './metadata'

/*
 * The decoder, in a thread of its own. One file at a time: everything it held is given back with the thread.
 */

type Module = Awaited<ReturnType<typeof create>>
type Raw = InstanceType<Module['LibRaw']>

let complaints: string[] = []
let loaded: Promise<Module> | undefined
const load = (): Promise<Module> => {
  loaded ??= create({
    // Compiled once for all threads: what one has found worth optimising is so for the next.
    instantiateWasm: (imports, ready) => {
      const code: WebAssembly.Module = workerData
      void WebAssembly.instantiate(code, imports).then((instance) => ready(instance, code))
      return {}
    },
    print: (line) => complaints.push(line),
    printErr: (line) => complaints.push(line),
  })
  return loaded
}

/** Where the decoder gave up, and what it said. */
export class RawFailure extends Error {
  override readonly name = 'RawFailure'
  constructor(
    readonly stage: 'open' | 'decode',
    readonly complaint: string,
  ) {
    super(`The raw decoder gave up: ${complaint}`)
  }
}

/** What the decoder throws is a number in its own memory. */
function attempt<T>(stage: RawFailure['stage'], work: () => T): T {
  complaints = []
  try {
    return work()
  } catch {
    throw new RawFailure(stage, complaints.join('; '))
  }
}

export async function withRaw<T>(bytes: Uint8Array, work: (raw: Raw, metadata: RawMetadata) => T): Promise<T> {
  const module = await load()
  const raw = new module.LibRaw()
  try {
    attempt('open', () => raw.open(bytes, {}))
    return work(raw, attempt('open', () => raw.metadata(true)) as RawMetadata)
  } finally {
    raw.delete()
  }
}

/**
 * Demosaicing by its number in the decoder: patterned pixel grouping (Lin 2003). Its PSNR is that of the adaptive homogeneity-directed one
 * within 0.1 dB, in less than half of its time; see docs/decisions.md.
 */
const patternedGrouping = 2
/** No conversion: the sensor's own channels. */
const sensorColours = 0
const rec2020 = 8

export interface DecodedRaw {
  readonly size: Size
  /** Interleaved RGB in linear light, balanced as the camera judged. */
  readonly pixels: Uint16Array<ArrayBuffer>
  /** Code 65535 is this many times the white of the picture. */
  readonly gain: number
  readonly head: RawHead
}

/** @param halfSize four sensor values become one pixel: for looking, a good deal quicker */
export const decodeRaw = (bytes: Uint8Array, { halfSize = false } = {}): Promise<DecodedRaw> =>
  withRaw(bytes, (raw, metadata) => {
    const multipliers = multipliersOf(metadata)
    const colour = colourOf(metadata)
    const isGrey = metadata.colors === 1
    const settings = {
      outputColor: colour || isGrey ? sensorColours : rec2020,
      outputBps: 16,
      // Power and slope of a straight line; with fewer than six numbers the package leaves it as it is.
      gamm: [1, 1, 0, 0, 0, 0],
      noAutoBright: true,
      adjustMaximumThr: 0,
      userQual: patternedGrouping,
      // Channels keep what lies above the one that is cut off first.
      highlight: 1,
      userMul: [multipliers[0], multipliers[1], multipliers[2], multipliers[1]],
      cropbox: cropOf(metadata),
      halfSize,
    }
    attempt('open', () => raw.open(bytes, settings))
    const image = attempt('decode', () => raw.imageData())
    if (!image || !(image.data instanceof Uint16Array)) throw new RawFailure('decode', 'no picture came out')
    const pixels = image.colors === 1 ? tripled(image.data) : (image.data as Uint16Array<ArrayBuffer>)
    const largest = Math.max(...multipliers)
    const ends: Vector3 = [multipliers[0] / largest, multipliers[1] / largest, multipliers[2] / largest]
    if (colour) {
      const share = trueEnd(pixels, ends)
      rebuildClipped(pixels, [ends[0] * share, ends[1] * share, ends[2] * share])
    }
    return {
      size: { width: image.width, height: image.height },
      pixels,
      gain: exposureGain(metadata) / Math.min(...ends),
      head: headOf(metadata),
    }
  })

function tripled(grey: Uint16Array): Uint16Array<ArrayBuffer> {
  const pixels = new Uint16Array(grey.length * 3)
  for (let i = 0; i < grey.length; i++) pixels.fill(grey[i] as number, i * 3, i * 3 + 3)
  return pixels
}

export interface RawHead {
  readonly metadata: RawMetadata
  readonly size: Size
  /** The sensor's colours; absent where it has not three channels: codes are linear working RGB then. */
  readonly colour?: CameraColour
}

const headOf = (metadata: RawMetadata): RawHead => ({ metadata, size: sizeOf(metadata), colour: colourOf(metadata) })

export const readRawHead = (bytes: Uint8Array): Promise<RawHead> => withRaw(bytes, (_, metadata) => headOf(metadata))

/** The largest picture that the camera put into the file, as JPEG; undefined where there is none, or none of that kind. */
export const readRawPreview = (bytes: Uint8Array): Promise<{ jpeg: Uint8Array; flip: number } | undefined> =>
  withRaw(bytes, (raw, metadata) => {
    const preview = attempt('open', () => raw.thumbnailData())
    return preview?.format === 'jpeg' && preview.data.length > 0 ? { jpeg: preview.data, flip: metadata.flip } : undefined
  }).catch((error) => {
    if (error instanceof RawFailure) return undefined
    throw error
  })
