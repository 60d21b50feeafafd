// The blocks that noise is measured on: what is cut off in them, how bright they are, what they hold at each frequency.
import { spectrumOf } from './block'
import { scaleOf } from './cosine'
import { floatOfRank } from './measure'

/** Coefficients as they come, and what makes them orthonormal. */
const spectrum = memory.data(256, 16)
const amounts = memory.data(256, 16)

/** 1 for each pixel that has a channel nearer to 0 or 1 than `margin`, 0 for all others. Planes in whole vectors. */
export function markCutOff(r: usize, g: usize, b: usize, target: usize, count: i32, margin: f32): void {
  const low = f32x4.splat(margin)
  const high = f32x4.splat(1 - margin)
  const one = f32x4.splat(1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const red = v128.load(r + i)
    const green = v128.load(g + i)
    const blue = v128.load(b + i)
    const isLow = f32x4.lt(f32x4.pmin(f32x4.pmin(red, green), blue), low)
    const isHigh = f32x4.gt(f32x4.pmax(f32x4.pmax(red, green), blue), high)
    v128.store(target + i, v128.and(v128.or(isLow, isHigh), one))
  }
}

/** The sum of eight rows of eight. */
// @ts-ignore: decorator
@inline
function sumOfBlock(at: usize, rowBytes: usize): f32 {
  let sum = f32x4.add(v128.load(at), v128.load(at, 16))
  for (let row = 1; row < 8; row++) {
    at += rowBytes
    sum = f32x4.add(sum, f32x4.add(v128.load(at), v128.load(at, 16)))
  }
  const first = f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1)
  return first + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3))
}

/**
 * Blocks of 8 × 8 `step` apart that lie within a plane of `width` × `height`: where each begins (bytes from `light`, plus `from`), the
 * mean of it in `light` and the sum of it in `ends`. Returns how many.
 */
export function placeBlocks(
  light: usize,
  ends: usize,
  width: i32,
  height: i32,
  step: i32,
  from: i32,
  places: usize,
  means: usize,
  sums: usize,
): i32 {
  const rowBytes: usize = <usize>width << 2
  let count = 0
  for (let y = 0; y + 8 <= height; y += step)
    for (let x = 0; x + 8 <= width; x += step) {
      const at: usize = <usize>y * rowBytes + (<usize>x << 2)
      const to: usize = <usize>count << 2
      i32.store(places + to, from + <i32>at)
      f32.store(means + to, sumOfBlock(light + at, rowBytes) / 64)
      f32.store(sums + to, sumOfBlock(ends + at, rowBytes))
      count++
    }
  return count
}

/**
 * Orthonormal cosine transforms of the blocks at `places` (bytes from `plane`, as `widths` floats a row): 64 coefficients each, index 8·across
 * + down or the other way round. `even`, `odd`: for each block the energy of those low frequencies (index sum at most 5, without the mean)
 * whose index sum is even, or odd.
 */
export function transformBlocks(plane: usize, places: usize, widths: usize, count: i32, target: usize, even: usize, odd: usize): void {
  for (let u = 0; u < 8; u++)
    for (let v = 0; v < 8; v++) f32.store(amounts + (<usize>(u * 8 + v) << 2), 1 / (8 * scaleOf(u) * scaleOf(v)))
  for (let n = 0; n < count; n++) {
    const at: usize = <usize>n << 2
    const rowBytes: usize = <usize>i32.load(widths + at) << 2
    const block = plane + <usize>i32.load(places + at)
    spectrumOf(block, block + 4 * rowBytes, rowBytes, spectrum)
    for (let row: usize = 0; row < 8; row++) {
      v128.store(target + row * 32, f32x4.mul(v128.load(spectrum + row * 16), v128.load(amounts + row * 32)))
      v128.store(target + row * 32, f32x4.mul(v128.load(spectrum + 128 + row * 16), v128.load(amounts + row * 32, 16)), 16)
    }
    let evenSum: f64 = 0
    let oddSum: f64 = 0
    for (let u = 0; u < 6; u++)
      for (let v = 0; v < 6 - u; v++) {
        const value = <f64>f32.load(target + (<usize>(u * 8 + v) << 2))
        if ((u + v) & 1) oddSum += value * value
        else if (u + v > 0) evenSum += value * value
      }
    f32.store(even + at, <f32>evenSum)
    f32.store(odd + at, <f32>oddSum)
    target += 256
  }
}

/**
 * Of the blocks whose numbers are given, those no busier than the one at `rank`, counted from the flattest: their numbers, in the same order.
 * Returns how many. `scratch`: room for a float for each.
 */
export function chooseFlattest(activity: usize, numbers: usize, count: i32, rank: i32, scratch: usize, target: usize): i32 {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4)
    f32.store(scratch + i, f32.load(activity + (<usize>i32.load(numbers + i) << 2)))
  const most = floatOfRank(scratch, count, rank)
  let found = 0
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const number = i32.load(numbers + i)
    if (f32.load(activity + (<usize>number << 2)) > most) continue
    i32.store(target + (<usize>found << 2), number)
    found++
  }
  return found
}

/** Squares of some coefficients (`frequencies`, each from 0 to 63) of blocks whose numbers are given, each divided by the square of its block's factor. */
export function squaresOfBlocks(
  coefficients: usize,
  numbers: usize,
  factors: usize,
  count: i32,
  frequencies: usize,
  frequencyCount: i32,
  target: usize,
): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const block = coefficients + (<usize>i32.load(numbers + i) << 8)
    const factor = f32.load(factors + i)
    for (let f: usize = 0, last: usize = <usize>frequencyCount << 2; f < last; f += 4) {
      const value = f32.load(block + (<usize>i32.load(frequencies + f) << 2)) / factor
      f32.store(target, value * value)
      target += 4
    }
  }
}
