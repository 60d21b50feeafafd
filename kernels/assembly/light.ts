// The colours of a small copy, counted without their lightness, and what they say of a light.
import { log2x4 } from './math'

/** Cells that colours are counted in, to a side, and the one in the middle: src/operations/measure/light.ts names them too. */
const cellsAcross: i32 = 128

/** 0–2: shares of the channels in luminance, ITU-R BT.2020, 3: the middle cell and a half, 4: 0, 5: the last cell */
const table = memory.data<f32>([0.2627, 0.678, 0.0593, 64.5, 0, 127])

// @ts-ignore: decorator
@inline
function k(index: usize): v128 {
  return v128.load32_splat(table + (index << 2))
}

// @ts-ignore: decorator
@inline
function cellOf(doublings: v128, scale: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.pmax(k(4), f32x4.pmin(k(5), f32x4.add(f32x4.mul(doublings, scale), k(3)))))
}

/**
 * The colours of those pixels whose channels all lie between two values, in the order of the picture: for each the number of its cell, by
 * how warm it is and, within that, how magenta, and its luminance. `scale`: cells a doubling of the ratio of two channels. Returns how many;
 * `count` may be any, the planes and both targets hold whole vectors.
 */
export function lightColours(
  r: usize,
  g: usize,
  b: usize,
  count: i32,
  darkest: f32,
  brightest: f32,
  scale: f32,
  cells: usize,
  luminance: usize,
): i32 {
  const scales = f32x4.splat(scale)
  const low = f32x4.splat(darkest)
  const high = f32x4.splat(brightest)
  let found = 0
  for (let i = 0; i < count; i += 4) {
    const at: usize = <usize>i << 2
    const red = v128.load(r + at)
    const green = v128.load(g + at)
    const blue = v128.load(b + at)
    const usable = v128.and(
      f32x4.gt(f32x4.pmin(f32x4.pmin(red, green), blue), low),
      f32x4.lt(f32x4.pmax(f32x4.pmax(red, green), blue), high),
    )
    let lanes = i32x4.bitmask(usable)
    if (count - i < 4) lanes &= (1 << (count - i)) - 1
    if (lanes == 0) continue
    const logRed = log2x4(red)
    const logGreen = log2x4(green)
    const logBlue = log2x4(blue)
    const warm = cellOf(f32x4.sub(logRed, logBlue), scales)
    const magenta = cellOf(f32x4.sub(f32x4.add(logRed, logBlue), f32x4.add(logGreen, logGreen)), scales)
    const cell = i32x4.add(i32x4.shl(warm, 7), magenta)
    const light = f32x4.add(f32x4.add(f32x4.mul(k(0), red), f32x4.mul(k(1), green)), f32x4.mul(k(2), blue))
    if (lanes == 15) {
      v128.store(cells + (<usize>found << 2), cell)
      v128.store(luminance + (<usize>found << 2), light)
      found += 4
      continue
    }
    found = kept(lanes & 1, cells, luminance, found, i32x4.extract_lane(cell, 0), f32x4.extract_lane(light, 0))
    found = kept(lanes & 2, cells, luminance, found, i32x4.extract_lane(cell, 1), f32x4.extract_lane(light, 1))
    found = kept(lanes & 4, cells, luminance, found, i32x4.extract_lane(cell, 2), f32x4.extract_lane(light, 2))
    found = kept(lanes & 8, cells, luminance, found, i32x4.extract_lane(cell, 3), f32x4.extract_lane(light, 3))
  }
  return found
}

// @ts-ignore: decorator
@inline
function kept(isKept: i32, cells: usize, luminance: usize, found: i32, cell: i32, light: f32): i32 {
  i32.store(cells + (<usize>found << 2), cell)
  f32.store(luminance + (<usize>found << 2), light)
  return found + i32(isKept != 0)
}

/** Counts cells: in `all`, and in `bright` where the luminance is no less than a threshold; 128 × 128 integers each. */
export function countColours(cells: usize, luminance: usize, count: i32, threshold: f32, all: usize, bright: usize): void {
  memory.fill(all, 0, <usize>(cellsAcross * cellsAcross) << 2)
  memory.fill(bright, 0, <usize>(cellsAcross * cellsAcross) << 2)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const at: usize = <usize>i32.load(cells + i) << 2
    i32.store(all + at, i32.load(all + at) + 1)
    i32.store(bright + at, i32.load(bright + at) + i32(f32.load(luminance + i) >= threshold))
  }
}

/**
 * How well colours suit a light: the sum of each one's two weights (doubles, side by side) times the two values (floats, side by side) that
 * stand in `table` at its own place plus `middle`.
 */
export function scoreLight(places: usize, weights: usize, count: i32, table: usize, middle: i32): f64 {
  let even = f64x2.splat(0)
  let odd = f64x2.splat(0)
  const start = table + (<usize>middle << 3)
  let i = 0
  for (; i + 2 <= count; i += 2) {
    even = f64x2.add(even, weighed(places, weights, start))
    odd = f64x2.add(odd, weighed(places + 4, weights + 16, start))
    places += 8
    weights += 32
  }
  if (i < count) even = f64x2.add(even, weighed(places, weights, start))
  const sum = f64x2.add(even, odd)
  return f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)
}

// @ts-ignore: decorator
@inline
function weighed(places: usize, weights: usize, start: usize): v128 {
  const values = f64x2.promote_low_f32x4(v128.load64_zero(start + (<usize>i32.load(places) << 3)))
  return f64x2.mul(v128.load(weights), values)
}
