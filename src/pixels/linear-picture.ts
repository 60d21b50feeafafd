import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane } from '@kernels/planes'
import { longEdge, type Size } from '@/base/geometry'
import { bucketCount, bucketsOf, quantileOf } from '@/base/quantile'
import { triple } from '@/base/tuples'
import { srgbTransfer } from '@/colour/transfer'
import { bringRows, type Codes, isWide, pixelBytesOf } from './codes'

/** A small copy of a picture for measuring: linear working RGB, three planes one behind the other, rows without gaps. */
export interface LinearPicture {
  readonly size: Size
  readonly planes: Float32Array
  /** What it is measured with. */
  readonly kernels: Kernels
}

/** Its planes in the memory of its kernels, each with the room that whole vectors need, until the scope of the heap ends. */
export function laidOut({ kernels: { heap }, size, planes }: LinearPicture): readonly [Pointer, Pointer, Pointer] {
  const length = size.width * size.height
  return triple((channel) => {
    const plane = allocatePlane(heap, length, 1)
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

/** Of a square that becomes one pixel, no more than this many to a side are read. */
const readAcross = 2
const lightOfByte = Float64Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))

/** A copy of a picture in codes, its long edge about as wished for, for measuring shapes: codes are read as sRGB whatever space they are in. */
export function reducedLinear(kernels: Kernels, codes: Codes, edge: number): LinearPicture {
  const { heap, run } = kernels
  const { size } = codes
  const factor = Math.max(1, Math.round(longEdge(size) / edge))
  const small = { width: Math.max(1, Math.floor(size.width / factor)), height: Math.max(1, Math.floor(size.height / factor)) }
  const length = small.width * small.height
  const step = Math.max(1, Math.floor(factor / readAcross))
  const reads = Math.ceil(factor / step)
  const pixelBytes = pixelBytesOf(codes)
  return heap.scope(() => {
    const light = heap.floats(lightOfByte.map((value) => value / reads ** 2))
    const planes = heap.allocate(3 * length * 4)
    heap.f32(planes, 3 * length).fill(0)
    const row = heap.allocate(size.width * pixelBytes)
    for (let y = 0; y < small.height; y++)
      for (let read = 0; read < reads; read++) {
        bringRows(heap, codes, y * factor + read * step, 1, row)
        const [r, g, b] = triple((channel) => planes + (channel * length + y * small.width) * 4)
        run.addLight(row, isWide(codes), small.width, factor * pixelBytes, step * pixelBytes, reads, light, r, g, b)
      }
    return { size: small, planes: heap.f32(planes, 3 * length).slice(), kernels }
  })
}
