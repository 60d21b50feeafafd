import type { Pointer } from '@kernels/heap'
import { copyPlane } from '@kernels/planes'
import { numberAt } from '@/base/numbers'
import type { NeighbourhoodJob } from '../declare/operation'
import type { PlaneWindow } from './gaussian'

/** One channel of a tile as a window to blur. */
export const windowOf = ({ input, output, reach, x, y }: NeighbourhoodJob, channel: number): PlaneWindow => ({
  source: numberAt(input.channels, channel),
  stride: input.stride,
  reach,
  width: output.width,
  height: output.height,
  x,
  y,
})

/** Copies a channel's tile to the output as it is. */
export function pass({ kernels, input, output, reach }: NeighbourhoodJob, channel: number): void {
  const [source, target] = [input.channels[channel], output.channels[channel]]
  copyPlane(kernels.heap, source as Pointer, input.stride, reach, reach, target as Pointer, output)
}
