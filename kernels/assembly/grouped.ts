// Cosine-transform shrinkage of groups of similar blocks (collaborative Wiener filtering, Dabov et al. 2007).
import { pixels, pixelsOf, spectrumOf } from './block'
import { factorAt, scaleAmounts, scaleBack, sumOfLanes, weigh, windowAt } from './shrinkage'

/** Blocks of a group. */
const groupSize: i32 = 8
/** Coefficients of a block, in bytes. */
const blockBytes: usize = 256
const noisy = memory.data(2048, 16)
const pilots = memory.data(2048, 16)
const spare = memory.data(256, 16)
/** The sum of a block's squared gains up to which it holds little but its mean: it needs no others. */
const alone: f32 = 2
const scaledVariances = memory.data(256, 16)
/** The group's blocks: how far from alike, and where from the first: in bytes, and in rows. */
const distances = memory.data(32, 16)
const places = memory.data(32, 16)
const rows = memory.data(32, 16)

/** Sum of the squared differences of two blocks; may stop above `limit`. */
// @ts-ignore: decorator
@inline
function difference(a: usize, b: usize, rowBytes: usize, limit: f32): f32 {
  let sum: f32 = 0
  for (let pair = 0; pair < 4; pair++) {
    const first = f32x4.sub(v128.load(a), v128.load(b))
    const second = f32x4.sub(v128.load(a, 16), v128.load(b, 16))
    const third = f32x4.sub(v128.load(a + rowBytes), v128.load(b + rowBytes))
    const fourth = f32x4.sub(v128.load(a + rowBytes, 16), v128.load(b + rowBytes, 16))
    const squares = f32x4.add(
      f32x4.add(f32x4.mul(first, first), f32x4.mul(second, second)),
      f32x4.add(f32x4.mul(third, third), f32x4.mul(fourth, fourth)),
    )
    sum += sumOfLanes(squares)
    if (sum >= limit) return sum
    a += 2 * rowBytes
    b += 2 * rowBytes
  }
  return sum
}

/** The blocks most like the one at `pilot`, itself first; those nearer than `most`. Returns how many. */
function gather(pilot: usize, rowBytes: usize, reach: i32, most: f32): i32 {
  let count = 1
  f32.store(distances, 0)
  i32.store(places, 0)
  i32.store(rows, 0)
  for (let y = -reach; y <= reach; y++)
    for (let x = -reach; x <= reach; x++) {
      if (x == 0 && y == 0) continue
      const place = y * <i32>rowBytes + (x << 2)
      const limit = count == groupSize ? f32.load(distances + ((groupSize - 1) << 2)) : most
      const distance = difference(pilot, pilot + place, rowBytes, limit)
      if (distance >= limit) continue
      let at = count < groupSize ? count++ : groupSize - 1
      while (at > 1 && f32.load(distances + ((at - 1) << 2)) > distance) {
        f32.store(distances + (at << 2), f32.load(distances + ((at - 1) << 2)))
        i32.store(places + (at << 2), i32.load(places + ((at - 1) << 2)))
        i32.store(rows + (at << 2), i32.load(rows + ((at - 1) << 2)))
        at--
      }
      f32.store(distances + (at << 2), distance)
      i32.store(places + (at << 2), place)
      i32.store(rows + (at << 2), y)
    }
  return count
}

/** Hadamard's transform across 2, 4 or 8 blocks, not scaled; its own inverse but for their number. */
function across(blocks: usize, count: i32): void {
  for (let span = 1; span < count; span <<= 1) {
    const bytes: usize = <usize>span * blockBytes
    for (let first = 0; first < count; first += span << 1) {
      let at = blocks + <usize>first * blockBytes
      for (const end = at + bytes; at < end; at += 16) {
        const a = v128.load(at)
        const b = v128.load(at + bytes)
        v128.store(at, f32x4.add(a, b))
        v128.store(at + bytes, f32x4.sub(a, b))
      }
    }
  }
}

/** Gains as of Wiener's filter; returns the sum of their squares. */
function weighGroup(count: i32, factor: f32): f32 {
  let sums = f32x4.splat(0)
  const relative = f32x4.splat(factor * factor * <f32>count)
  for (let block = 0; block < count; block++) {
    const at = <usize>block * blockBytes
    sums = f32x4.add(sums, weigh(noisy + at, pilots + at, scaledVariances, relative))
    sums = f32x4.add(sums, weigh(noisy + at + 128, pilots + at + 128, scaledVariances + 16, relative))
  }
  return sumOfLanes(sums)
}

/** `pixels` to where their block lies, as much of them as the block and the window weigh. */
// @ts-ignore: decorator
@inline
function addBlock(scale: f32, weight: f32, window: usize, sums: usize, weights: usize, rowBytes: usize): void {
  addHalf(pixels, scale, f32x4.mul(v128.load(window), f32x4.splat(weight)), window, sums, weights, rowBytes)
  addHalf(pixels + 16, scale, f32x4.mul(v128.load(window, 16), f32x4.splat(weight)), window, sums + 16, weights + 16, rowBytes)
}

// @ts-ignore: decorator
@inline
function addHalf(from: usize, scale: f32, weight: v128, window: usize, sums: usize, weights: usize, rowBytes: usize): void {
  for (let row: usize = 0; row < 8; row++) {
    const here = f32x4.mul(weight, windowAt(window, row))
    const scaled = f32x4.mul(v128.load(from), f32x4.splat(scale))
    v128.store(sums, f32x4.add(v128.load(sums), f32x4.mul(scaled, here)))
    v128.store(weights, f32x4.add(v128.load(weights), here))
    from += 32
    sums += rowBytes
    weights += rowBytes
  }
}

/**
 * Blocks that begin at multiples of `step`, each with up to seven others of the pilot that are most like it, up to
 * `reach` off: shrunk together by gains from the pilot, and added to `sums` and `weights` (planes of zeros that lie as the pilot does).
 */
export function shrinkGroups(source: usize, guide: usize, stride: i32, pilot: usize, sums: usize, weights: usize, pilotStride: i32, blocksAcross: i32, blocksDown: i32, step: i32, reach: i32, most: f32, variances: usize, factors: usize, window: usize): void {
  const rowBytes: usize = <usize>stride << 2
  const pilotBytes: usize = <usize>pilotStride << 2
  scaleAmounts(variances, scaledVariances, 2)
  for (let j = 0; j < blocksDown; j++) {
    for (let i = 0; i < blocksAcross; i++) {
      const x: usize = <usize>(i * step) << 2
      const relative = factorAt(guide + x, rowBytes, factors)
      spectrumOf(source + x, source + x + 4 * rowBytes, rowBytes, noisy)
      spectrumOf(pilot + x, pilot + x + 4 * pilotBytes, pilotBytes, pilots)
      memory.copy(spare, noisy, blockBytes)
      let gains = weighGroup(1, relative)
      let count = 1
      if (gains > alone) {
        memory.copy(noisy, spare, blockBytes)
        // A power of two.
        count = 1 << (31 - clz(gather(pilot + x, pilotBytes, reach, most)))
        for (let k = 1; k < count; k++) {
          const guess = pilot + x + i32.load(places + (k << 2))
          const from = source + x + i32.load(places + (k << 2)) + i32.load(rows + (k << 2)) * (<i32>rowBytes - <i32>pilotBytes)
          spectrumOf(from, from + 4 * rowBytes, rowBytes, noisy + <usize>k * blockBytes)
          spectrumOf(guess, guess + 4 * pilotBytes, pilotBytes, pilots + <usize>k * blockBytes)
        }
        across(noisy, count)
        across(pilots, count)
        gains = weighGroup(count, relative)
        across(noisy, count)
      }
      const weight: f32 = 1 / Mathf.max(gains, 1)
      for (let k = 0; k < count; k++) {
        pixelsOf(noisy + <usize>k * blockBytes)
        const place = x + i32.load(places + (k << 2))
        addBlock(scaleBack / <f32>count, weight, window, sums + place, weights + place, pilotBytes)
      }
    }
    source += <usize>step * rowBytes
    guide += <usize>step * rowBytes
    pilot += <usize>step * pilotBytes
    sums += <usize>step * pilotBytes
    weights += <usize>step * pilotBytes
  }
}

/** What was added up, divided by its weights; of use where something was. */
export function shareGroups(sums: usize, weights: usize, target: usize, count: i32): void {
  for (const end = sums + (<usize>count << 2); sums < end; sums += 16) {
    v128.store(target, f32x4.div(v128.load(sums), v128.load(weights)))
    weights += 16
    target += 16
  }
}
