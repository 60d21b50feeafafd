import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { longEdge, type Size } from '@/base/geometry'
import { codeAt, doubleAt } from '@/base/numbers'
import { bucketCount, bucketsOf, quantileOf } from '@/base/quantile'
import { triple } from '@/base/tuples'
import { srgbTransfer } from '@/colour/transfer'

/** A small copy of a picture for measuring: linear working RGB, three planes one behind the other, rows without gaps. */
export interface LinearPicture {
  readonly size: Size
  readonly planes: Float32Array
  /** What it is measured with. */
  readonly kernels: Kernels
}

/** Kernels work in whole vectors and may touch this much behind a plane's end. */
const slackBytes = 64

/** Its planes in the memory of its kernels, each with the room that whole vectors need, until the scope of the heap ends. */
export function laidOut({ kernels: { heap }, size, planes }: LinearPicture): readonly [Pointer, Pointer, Pointer] {
  const length = size.width * size.height
  return triple((channel) => {
    const plane = heap.allocate(length * 4 + slackBytes)
    heap.f32(plane, length).set(planes.subarray(channel * length, (channel + 1) * length))
    return plane
  })
}

/** The values below which shares (0–1) of `count` floats in the kernels' memory lie; NaN-free. */
export function quantilesOnHeap({ heap, run }: Kernels, values: Pointer, count: number, shares: readonly number[]): number[] {
  if (count === 0) return shares.map(() => 0)
  return heap.scope(() => {
    const starts = heap.allocate((bucketCount + 1) * 4)
    const found = heap.allocate((count + 1) * 4)
    run.countBuckets(values, count, starts)
    const buckets = {
      count,
      starts: heap.i32(starts, bucketCount + 1),
      gather: (low: number, high: number) => heap.f32(found, run.gatherBuckets(values, count, low, high, found)).slice(),
    }
    return shares.map((share) => quantileOf(buckets, share))
  })
}

/** The value below which `share` (0–1) of the given ones lie, by counting; NaN-free input that does not change. */
export function quantile(values: Float32Array, share: number): number {
  return values.length === 0 ? 0 : quantileOf(bucketsOf(values), share)
}

/** Interleaved codes of 8 or 16 bits, three or four to a pixel. */
export interface Codes {
  readonly size: Size
  readonly values: Uint8Array | Uint8ClampedArray | Uint16Array
  readonly channels: number
}

/** Of a square that becomes one pixel, no more than this many to a side are read. */
const readAcross = 2
const lightOfByte = Float64Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))

/** A copy of a picture in codes, its long edge about as wished for, for measuring shapes: codes are read as sRGB whatever space they are in. */
export function reducedLinear(kernels: Kernels, { size, values, channels }: Codes, edge: number): LinearPicture {
  const factor = Math.max(1, Math.round(longEdge(size) / edge))
  const small = { width: Math.max(1, Math.floor(size.width / factor)), height: Math.max(1, Math.floor(size.height / factor)) }
  const length = small.width * small.height
  const planes = new Float32Array(3 * length)
  const shift = values.BYTES_PER_ELEMENT === 2 ? 8 : 0
  const step = Math.max(1, Math.floor(factor / readAcross))
  const read = Math.ceil(factor / step) ** 2
  for (let y = 0; y < small.height; y++)
    for (let x = 0; x < small.width; x++) {
      let red = 0
      let green = 0
      let blue = 0
      for (let dy = 0; dy < factor; dy += step)
        for (let dx = 0; dx < factor; dx += step) {
          const at = ((y * factor + dy) * size.width + x * factor + dx) * channels
          red += doubleAt(lightOfByte, codeAt(values, at) >> shift)
          green += doubleAt(lightOfByte, codeAt(values, at + 1) >> shift)
          blue += doubleAt(lightOfByte, codeAt(values, at + 2) >> shift)
        }
      const to = y * small.width + x
      planes[to] = red / read
      planes[length + to] = green / read
      planes[2 * length + to] = blue / read
    }
  return { size: small, planes, kernels }
}
