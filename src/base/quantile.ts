import { floatAt, integerAt } from '@/base/numbers'
import { memoised } from './lru-cache'

const bucketBits = 16

/** The upper bits of a float in an order that is the floats' own: negative ones are stored as magnitudes, and turned round. */
const bucketOf = (bits: number): number => (bits < 0 ? ~bits : bits ^ 0x80000000) >>> (32 - bucketBits)

const bitsOf = (values: Float32Array): Int32Array => new Int32Array(values.buffer, values.byteOffset, values.length)

/** How many values lie below each bucket; counted once, however many ranks are asked for. */
const startsOf = memoised((values: Float32Array): Uint32Array => {
  const starts = new Uint32Array((1 << bucketBits) + 1)
  const bits = bitsOf(values)
  for (let i = 0; i < bits.length; i++) {
    const next = bucketOf(integerAt(bits, i)) + 1
    starts[next] = integerAt(starts, next) + 1
  }
  for (let bucket = 1; bucket < starts.length; bucket++) starts[bucket] = integerAt(starts, bucket) + integerAt(starts, bucket - 1)
  return starts
})

/**
 * The values that would stand at `rank` and behind it (0 … length − 1) if they were sorted: only those that share their upper bits are,
 * since sorting all takes ten times as long for what a picture is measured on. No not-a-numbers; the values must not change between calls.
 */
export function sortedValuesAt(values: Float32Array, rank: number): readonly [at: number, behind: number] {
  const starts = startsOf(values)
  const low = bucketAt(starts, rank)
  const behind = Math.min(rank + 1, values.length - 1)
  const high = behind < integerAt(starts, low + 1) ? low : bucketAt(starts, behind)
  const first = integerAt(starts, low)
  const candidates = new Float32Array(integerAt(starts, high + 1) - first)
  const bits = bitsOf(values)
  for (let i = 0, found = 0; found < candidates.length; i++) {
    const bucket = bucketOf(integerAt(bits, i))
    if (bucket >= low && bucket <= high) candidates[found++] = floatAt(values, i)
  }
  candidates.sort()
  return [floatAt(candidates, rank - first), floatAt(candidates, behind - first)]
}

/** The bucket that the value at a rank is in. */
function bucketAt(starts: Uint32Array, rank: number): number {
  let [low, high] = [0, 1 << bucketBits]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (integerAt(starts, middle) <= rank) low = middle
    else high = middle
  }
  return low
}
