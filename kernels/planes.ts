import { triple } from '@/base/tuples'
import type { Heap, Pointer } from './heap'

/** Three planes of 32-bit floats in the kernels' memory. Strides in floats, a multiple of 4. */
export interface Planes {
  readonly width: number
  readonly height: number
  readonly stride: number
  readonly channels: readonly [Pointer, Pointer, Pointer]
}

/** Kernels work in whole vectors and may touch this much behind a plane's end. */
const slackBytes = 64

export const strideOf = (width: number): number => (width + 3) & ~3

export function allocatePlane(heap: Heap, width: number, height: number): Pointer {
  return heap.allocate(strideOf(width) * height * 4 + slackBytes)
}

export function allocatePlanes(heap: Heap, width: number, height: number): Planes {
  const channels = triple(() => allocatePlane(heap, width, height))
  return { width, height, stride: strideOf(width), channels }
}

/** Copies a window of `from` that starts at (x, y) over the whole of `to`, one plane. */
export function copyPlane(
  heap: Heap,
  from: Pointer,
  fromStride: number,
  x: number,
  y: number,
  to: Pointer,
  size: Pick<Planes, 'width' | 'height' | 'stride'>,
): void {
  const floats = new Float32Array(heap.memory.buffer)
  const [source, target] = [from >> 2, to >> 2]
  for (let row = 0; row < size.height; row++) {
    const start = source + (row + y) * fromStride + x
    floats.copyWithin(target + row * size.stride, start, start + size.width)
  }
}
