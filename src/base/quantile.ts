import { floatAt, integerAt } from '@/base/numbers'
import { memoised } from './lru-cache'

const bucketBits = 16
export const bucketCount = 1 << bucketBits

/** Numbers put into buckets by the upper 16 bits of each as a float, in the order of the numbers. */
export interface Buckets {
  readonly count: number
  /** Of each bucket, and of what lies behind the last, how many numbers lie below it. */
  readonly starts: Int32Array
  /** The numbers of some buckets, in any order, in a new array. */
  gather(low: number, high: number): Float32Array
}

/** The upper bits of a float in an order that is the floats' own: negative ones are stored as magnitudes, and turned round. */
const bucketOf = (bits: number): number => (bits < 0 ? ~bits : bits ^ 0x80000000) >>> (32 - bucketBits)

/** Counted once, however many ranks are asked for. No not-a-numbers; the values must not change between calls. */
export const bucketsOf = memoised((values: Float32Array): Buckets => {
  const starts = new Int32Array(bucketCount + 1)
  const bits = new Int32Array(values.buffer, values.byteOffset, values.length)
  for (let i = 0; i < bits.length; i++) {
    const next = bucketOf(integerAt(bits, i)) + 1
    starts[next] = integerAt(starts, next) + 1
  }
  for (let bucket = 1; bucket < starts.length; bucket++) starts[bucket] = integerAt(starts, bucket) + integerAt(starts, bucket - 1)
  return {
    count: values.length,
    starts,
    gather: (low, high) => {
      const found = new Float32Array(integerAt(starts, high + 1) - integerAt(starts, low))
      for (let i = 0, to = 0; to < found.length; i++) {
        const bucket = bucketOf(integerAt(bits, i))
        if (bucket >= low && bucket <= high) found[to++] = floatAt(values, i)
      }
      return found
    },
  }
})

/**
 * The numbers that would stand at `rank` and behind it (0 … count − 1) if they were sorted: only those that share their upper bits are,
 * since sorting all takes ten times as long for what a picture is measured on.
 */
export function sortedValuesAt({ count, starts, gather }: Buckets, rank: number): readonly [at: number, behind: number] {
  const low = bucketAt(starts, rank)
  const behind = Math.min(rank + 1, count - 1)
  const high = behind < integerAt(starts, low + 1) ? low : bucketAt(starts, behind)
  const first = integerAt(starts, low)
  const candidates = gather(low, high).sort()
  return [floatAt(candidates, rank - first), floatAt(candidates, behind - first)]
}

/** The bucket that the number at a rank is in. */
function bucketAt(starts: Int32Array, rank: number): number {
  let [low, high] = [0, bucketCount]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (integerAt(starts, middle) <= rank) low = middle
    else high = middle
  }
  return low
}

/** The number below which `share` (0–1) of them lie, by counting. */
export function quantileOf(buckets: Buckets, share: number): number {
  const position = Math.min(Math.max(share, 0), 1) * (buckets.count - 1)
  const index = Math.max(0, Math.min(Math.floor(position), buckets.count - 2))
  const [low, high] = sortedValuesAt(buckets, index)
  return low + (high - low) * (position - index)
}
