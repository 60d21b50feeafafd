import type { Size } from './geometry'
import { once } from './remembered'
import { sortedFloats } from './sorted'

/** A small copy of a picture for measuring: linear working RGB, three planes one behind the other, rows without gaps. */
export interface LinearPicture {
  readonly size: Size
  readonly planes: Float32Array
}

/** Sorted once, however many shares are asked for. */
const sortedOf = once(sortedFloats)

/** The value below which `share` (0–1) of the given ones lie, by counting; NaN-free input that does not change. */
export function quantile(values: Float32Array, share: number): number {
  const sorted = sortedOf(values)
  const position = Math.min(Math.max(share, 0), 1) * (sorted.length - 1)
  const index = Math.min(Math.floor(position), sorted.length - 2)
  if (index < 0) return sorted[0] ?? 0
  const [low = 0, high = 0] = [sorted[index], sorted[index + 1]]
  return low + (high - low) * (position - index)
}
