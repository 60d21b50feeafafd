import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, strideOf } from '@kernels/planes'
import { cumsum } from 'd3'
import { areaOf, type Size } from '@/base/geometry'
import { byteAt, floatAt, integerAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapPair, triple } from '@/base/tuples'
import { toOpponent, workingToFile } from '@/colour/opponent'
import type { LinearPicture } from '@/pixels/linear-picture'
import { brightnessBins, noiseLevels, ringOf } from '../support/noise-profile'

/*
 * The blocks that noise is measured on: 8 × 8 pixels of brightness and two colour differences, as cosine transforms; and the flattest of
 * them, which hold noise rather than drawing.
 */

/** Blocks of one channel: their brightness, and where on the heap their 64 coefficients each lie (index 8·across + down). */
export interface Blocks {
  readonly brightness: Float32Array
  readonly coefficients: Pointer
}

export const parities: readonly [0 | 1, 0 | 1] = [0, 1]
/** The frequencies of some rings, of even and of odd index sum. */
export const frequenciesOfRings = (first: number, last: number): readonly [even: readonly number[], odd: readonly number[]] =>
  mapPair(parities, (parity) =>
    Array.from(ringOf.keys()).filter((i) => {
      const ring = numberAt(ringOf, i)
      return ring >= first && ring <= last && (((i >> 3) + (i & 7)) & 1) === parity
    }),
  )

/** Encoded values nearer to the ends than this are taken for cut off. */
const clipMargin = 0.004

/** Pieces of a picture on the heap, one after the other: each plane of them apart. */
interface Pieces {
  readonly sizes: readonly Size[]
  /** Brightness, two colour differences, and how much of each pixel is cut off. */
  readonly planes: readonly [Pointer, Pointer, Pointer, Pointer]
}

const halfSize = ({ width, height }: Size): Size => ({ width: width >> 1, height: height >> 1 })

function allocatePieces({ heap }: Kernels, sizes: readonly Size[]): Pieces {
  const length = sizes.reduce((sum, size) => sum + areaOf(size), 0)
  const plane = (): Pointer => allocatePlane(heap, length, 1)
  return { sizes, planes: [plane(), plane(), plane(), plane()] }
}

/** Encoded sRGB, cut off at 0 and 1, as brightness and two colour differences. */
function laidOutPieces(kernels: Kernels, patches: readonly LinearPicture[]): Pieces {
  const { heap, run } = kernels
  const sizes = patches.map(({ size }) => size)
  const pieces = allocatePieces(kernels, sizes)
  const [red, green, blue, ends] = pieces.planes
  const channels = [red, green, blue] as const
  let from = 0
  for (const { size, planes } of patches) {
    const length = areaOf(size)
    for (const [c, plane] of channels.entries()) heap.f32(plane + from * 4, length).set(planes.subarray(c * length, (c + 1) * length))
    from += length
  }
  const count = strideOf(from)
  run.matrix(...channels, count, heap.floats(workingToFile))
  for (const plane of channels) run.clampPlane(plane, count, 0, 1)
  run.toEncoded(...channels, count, 0)
  run.markCutOff(...channels, ends, count, clipMargin)
  run.matrix(...channels, count, heap.floats(toOpponent))
  return pieces
}

/** Every 2 × 2 pixels averaged. */
function halved(kernels: Kernels, { sizes, planes }: Pieces): Pieces {
  const result = allocatePieces(kernels, sizes.map(halfSize))
  for (const [i, target] of result.planes.entries()) {
    let [from, to] = [present(planes[i]), target]
    for (const size of sizes) {
      const half = halfSize(size)
      kernels.run.halvePlane(from, size.width, to, half.width, half.width, half.height)
      from += areaOf(size) * 4
      to += areaOf(half) * 4
    }
  }
  return result
}

/** Where blocks lie. */
interface Places {
  /** Of each, bytes from the beginning of a plane, and pixels from row to row. */
  readonly at: Int32Array
  readonly widths: Int32Array
  readonly brightness: Float32Array
}

/** Very strong noise leaves hardly a block without a value at the ends: the better ones are taken then, up to half of their pixels. */
const maxEnds = 32
const betterShare = 0.3

/** Places of blocks `step` apart, without those that have too much at the ends of the scale, where noise is cut off. */
function placesOf({ heap, run }: Kernels, { sizes, planes: [light, , , cutOff] }: Pieces, step: number): Places {
  const across = (length: number): number => Math.max(0, Math.floor((length - 8) / step) + 1)
  const most = sizes.reduce((sum, { width, height }) => sum + across(width) * across(height), 0)
  return heap.scope(() => {
    const [at, means, sums] = [heap.allocate(most * 4), heap.allocate(most * 4), heap.allocate(most * 4)]
    const widths = new Int32Array(most)
    let [count, from] = [0, 0]
    for (const { width, height } of sizes) {
      const [to, piece] = [count * 4, from * 4]
      const found = run.placeBlocks(light + piece, cutOff + piece, width, height, step, piece, at + to, means + to, sums + to)
      widths.fill(width, count, count + found)
      count += found
      from += width * height
    }
    const ends = heap.f32(sums, count)
    const allowed = Math.min(maxEnds, ends.slice().sort()[Math.floor(count * betterShare)] ?? 0)
    const [allPlaces, allMeans] = [heap.i32(at, count), heap.f32(means, count)]
    const kept = { at: new Int32Array(count), widths: new Int32Array(count), brightness: new Float32Array(count) }
    let blocks = 0
    for (let n = 0; n < count; n++) {
      if (floatAt(ends, n) > allowed) continue
      kept.at[blocks] = integerAt(allPlaces, n)
      kept.widths[blocks] = integerAt(widths, n)
      kept.brightness[blocks++] = floatAt(allMeans, n)
    }
    return { at: kept.at.subarray(0, blocks), widths: kept.widths.subarray(0, blocks), brightness: kept.brightness.subarray(0, blocks) }
  })
}

/** Numbers of blocks, those of one brightness together. */
interface ByBrightness {
  readonly numbers: Pointer
  /** Where each brightness begins, and where the last one ends. */
  readonly starts: readonly number[]
}

function byBrightness({ heap }: Kernels, { brightness }: Places): ByBrightness {
  const bins = new Uint8Array(brightness.length)
  const counts = new Array<number>(brightnessBins).fill(0)
  for (let n = 0; n < bins.length; n++) {
    const bin = binOf(floatAt(brightness, n))
    bins[n] = bin
    counts[bin] = numberAt(counts, bin) + 1
  }
  const starts = [0, ...cumsum(counts)]
  const next = [...starts]
  const numbers = new Int32Array(bins.length)
  for (let n = 0; n < bins.length; n++) {
    const bin = byteAt(bins, n)
    const place = numberAt(next, bin)
    numbers[place] = n
    next[bin] = place + 1
  }
  return { numbers: heap.integers(numbers), starts }
}

/** The flattest blocks of one channel. What they hold stays on the heap until its scope ends. */
function flattest({ heap, run }: Kernels, plane: Pointer, { at, widths, brightness }: Places, { numbers, starts }: ByBrightness): Flat {
  const count = at.length
  const coefficients = heap.allocate(count * 256)
  const chosen = heap.scope(() => {
    const [even, odd] = [heap.allocate(count * 4), heap.allocate(count * 4)]
    run.transformBlocks(plane, heap.integers(at), heap.integers(widths), count, coefficients, even, odd)
    const [scratch, target] = [heap.allocate(count * 4), heap.allocate(count * 4)]
    return mapPair([even, odd], (activity) => {
      let found = 0
      for (let bin = 0; bin < brightnessBins; bin++) {
        const [from, end] = [numberAt(starts, bin), numberAt(starts, bin + 1)]
        const rank = Math.min(end - from, Math.max(minFlat, Math.ceil((end - from) * flatShare))) - 1
        if (rank >= 0) found += run.chooseFlattest(activity, numbers + from * 4, end - from, rank, scratch, target + found * 4)
      }
      return heap.i32(target, found).slice()
    })
  })
  return { blocks: { brightness, coefficients }, chosen }
}

/**
 * The flattest blocks of pieces of a picture at every reduction: of brightness and both colour differences. What they hold stays on the heap
 * until its scope ends.
 */
export function flattestBlocks(kernels: Kernels, patches: readonly LinearPicture[]): (readonly [Flat, Flat, Flat])[] {
  let pieces = laidOutPieces(kernels, patches)
  return Array.from({ length: noiseLevels }, (_, level) => {
    if (level > 0) pieces = halved(kernels, pieces)
    const places = placesOf(kernels, pieces, Math.max(2, 8 >> Math.max(0, level - 1)))
    const grouped = byBrightness(kernels, places)
    return triple((channel) => flattest(kernels, pieces.planes[channel], places, grouped))
  })
}

/** This share of the blocks, the flattest ones, is taken to hold noise alone. */
const flatShare = 0.05
const minFlat = 10

export const binOf = (brightness: number): number => Math.min(brightnessBins - 1, Math.max(0, Math.floor(brightness * brightnessBins)))

/** Blocks and the numbers of those that are flattest, of each brightness, by even and by odd frequencies. */
export interface Flat {
  readonly blocks: Blocks
  readonly chosen: readonly [byEven: Int32Array, byOdd: Int32Array]
}

/** Of what belongs to either choice: that of the blocks on which frequencies of a parity are measured. The other parity has chosen them, so choosing does not bias them. */
export const measuredOn = <T>([byEven, byOdd]: readonly [T, T], parity: 0 | 1): T => (parity === 0 ? byOdd : byEven)
