// The 8 × 8 cosine transform of one block, there and back.
import { backward, forward, Lay } from './cosine'

/** Half-way: done along one side. */
const turned = memory.data(256, 16)
/** Eight rows of eight. */
export const pixels = memory.data(256, 16)

/**
 * Coefficients of a block whose upper four rows lie in one place and the lower four in another: frequencies across 16 bytes apart, in the
 * lanes the lower four of those down; the upper four 128 bytes on.
 */
// @ts-ignore: decorator
@inline
export function spectrumOf(upper: usize, lower: usize, rowBytes: usize, to: usize): void {
  forward(upper, lower, rowBytes, turned, Lay.turned, 16, turned + 128)
  forward(upper + 16, lower + 16, rowBytes, turned + 64, Lay.turned, 16, turned + 192)
  forward(turned, turned + 64, 16, to)
  forward(turned + 128, turned + 192, 16, to + 128)
}

/** Back to `pixels`, but for the scale. */
// @ts-ignore: decorator
@inline
export function pixelsOf(spectrum: usize): void {
  backward(spectrum, turned, 16, Lay.turned, 0, turned + 128)
  backward(spectrum + 128, turned + 64, 16, Lay.turned, 0, turned + 192)
  backward(turned, pixels, 32)
  backward(turned + 128, pixels + 16, 32)
}
