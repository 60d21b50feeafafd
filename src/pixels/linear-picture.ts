import type { Size } from '@/base/geometry'
import { sortedValuesAt } from '@/base/quantile'

/** A small copy of a picture for measuring: linear working RGB, three planes one behind the other, rows without gaps. */
export interface LinearPicture {
  readonly size: Size
  readonly planes: Float32Array
}

/** The value below which `share` (0–1) of the given ones lie, by counting; NaN-free input that does not change. */
export function quantile(values: Float32Array, share: number): number {
  const position = Math.min(Math.max(share, 0), 1) * (values.length - 1)
  const index = Math.min(Math.floor(position), values.length - 2)
  if (index < 0) return values[0] ?? 0
  const [low, high] = sortedValuesAt(values, index)
  return low + (high - low) * (position - index)
}
