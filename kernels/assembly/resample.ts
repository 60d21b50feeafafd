// Separable resampling of one plane with a weight table (src/pixels/resampling.ts). `starts` are relative
// to the plane handed in, strides are in floats.
import { storeTurned } from './turned'

/**
 * A value held within what its surroundings have: between the least and the most of them, and a little beyond. How much is a share of the
 * root of the light: about so many codes of an encoded picture, dark or bright.
 */
// @ts-ignore: decorator
@inline
function heldWithin(value: v128, least: v128, most: v128, beyond: v128): v128 {
  // Most lie between the two.
  if (!v128.any_true(v128.or(f32x4.lt(value, least), f32x4.gt(value, most)))) return value
  const zero = f32x4.splat(0)
  const toe = f32x4.mul(beyond, f32x4.splat(toeLight))
  const low = f32x4.sub(f32x4.sub(least, f32x4.mul(beyond, f32x4.sqrt(f32x4.pmax(least, zero)))), toe)
  const high = f32x4.add(f32x4.add(most, f32x4.mul(beyond, f32x4.sqrt(f32x4.pmax(most, zero)))), toe)
  return f32x4.pmin(f32x4.pmax(value, low), high)
}
/** Where the transfer of sRGB goes over into a line, the root of the light is about this. */
const toeLight: f32 = 0.02

/** Floats of a row that are worked on at a time: all rows that they are made of stay in a first-level cache. */
const pieceWidth = 256

/**
 * Output row y = Σ weights[y][t] · input row starts[y] + t; each value held within its surroundings, input rows starts[y] + from[y] and the
 * `count` − 1 behind it (four rows or more), unless `count` is 0. `width` in whole vectors. `beyond`: see `heldWithin`.
 */
export function resampleColumns(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32, from: usize, count: i32, beyond: f32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  const room = f32x4.splat(beyond)
  for (let y = 0; y < rows; y++) {
    const place = (<usize>y) << 2
    const first = <usize>i32.load(starts + place) * rowBytes
    const near: usize = count == 0 ? 0 : first + <usize>i32.load(from + place) * rowBytes
    const weighty = weightyBytes(weights + (<usize>(y * taps) << 2), <usize>taps << 2)
    for (let x = 0; x < width; x += pieceWidth) {
      const piece = source + ((<usize>x) << 2)
      const to = target + rowAt(y, targetStride) + ((<usize>x) << 2)
      const end: usize = <usize>min(pieceWidth, width - x) << 2
      sumColumns(piece + first, rowBytes, to, end, weights + ((<usize>(y * taps)) << 2), weighty)
      if (count > 0) holdColumns(piece + near, rowBytes, to, end, count, room)
    }
  }
}

/** Weights but for the last ones that are nothing: some outputs have one sample fewer than others. */
function weightyBytes(weights: usize, tapBytes: usize): usize {
  while (tapBytes > 4 && f32.load(weights + tapBytes - 4) == 0) tapBytes -= 4
  return tapBytes
}

/** Four vectors at a time share each weight; the remainder does the same sums one by one. */
// @ts-ignore: decorator
@inline
function sumColumns(first: usize, rowBytes: usize, to: usize, end: usize, weights: usize, tapBytes: usize): void {
  let i: usize = 0
  for (; i + 64 <= end; i += 64) {
    let a = f32x4.splat(0)
    let b = f32x4.splat(0)
    let c = f32x4.splat(0)
    let d = f32x4.splat(0)
    let at = first + i
    let t: usize = 0
    // Two rows at a time: what a loop costs by itself is a quarter of one.
    for (; t + 8 <= tapBytes; t += 8) {
      const v = v128.load32_splat(weights + t)
      const w = v128.load32_splat(weights + t, 4)
      const next = at + rowBytes
      a = f32x4.add(f32x4.add(a, f32x4.mul(v128.load(at), v)), f32x4.mul(v128.load(next), w))
      b = f32x4.add(f32x4.add(b, f32x4.mul(v128.load(at, 16), v)), f32x4.mul(v128.load(next, 16), w))
      c = f32x4.add(f32x4.add(c, f32x4.mul(v128.load(at, 32), v)), f32x4.mul(v128.load(next, 32), w))
      d = f32x4.add(f32x4.add(d, f32x4.mul(v128.load(at, 48), v)), f32x4.mul(v128.load(next, 48), w))
      at = next + rowBytes
    }
    if (t < tapBytes) {
      const w = v128.load32_splat(weights + t)
      a = f32x4.add(a, f32x4.mul(v128.load(at), w))
      b = f32x4.add(b, f32x4.mul(v128.load(at, 16), w))
      c = f32x4.add(c, f32x4.mul(v128.load(at, 32), w))
      d = f32x4.add(d, f32x4.mul(v128.load(at, 48), w))
    }
    v128.store(to + i, a)
    v128.store(to + i, b, 16)
    v128.store(to + i, c, 32)
    v128.store(to + i, d, 48)
  }
  for (; i < end; i += 16) {
    let a = f32x4.splat(0)
    let at = first + i
    for (let t: usize = 0; t < tapBytes; t += 4) {
      a = f32x4.add(a, f32x4.mul(v128.load(at), v128.load32_splat(weights + t)))
      at += rowBytes
    }
    v128.store(to + i, a)
  }
}

/** Two vectors at a time share each step down. */
// @ts-ignore: decorator
@inline
function holdColumns(near: usize, rowBytes: usize, to: usize, end: usize, count: i32, room: v128): void {
  let i: usize = 0
  for (; i + 32 <= end; i += 32) {
    let at = near + i
    let least = v128.load(at)
    let most = least
    let leastNext = v128.load(at, 16)
    let mostNext = leastNext
    for (let t = 1; t < count; t++) {
      at += rowBytes
      const other = v128.load(at)
      const otherNext = v128.load(at, 16)
      least = f32x4.pmin(least, other)
      most = f32x4.pmax(most, other)
      leastNext = f32x4.pmin(leastNext, otherNext)
      mostNext = f32x4.pmax(mostNext, otherNext)
    }
    v128.store(to + i, heldWithin(v128.load(to + i), least, most, room))
    v128.store(to + i, heldWithin(v128.load(to + i, 16), leastNext, mostNext, room), 16)
  }
  if (i < end) v128.store(to + i, heldNear(v128.load(to + i), near + i, rowBytes, count, room))
}

/** A value held within `count` vectors, four or more, that lie `step` bytes apart. */
// @ts-ignore: decorator
@inline
function heldNear(value: v128, near: usize, step: usize, count: i32, room: v128): v128 {
  const first = v128.load(near)
  const second = v128.load(near + step)
  let at = near + 2 * step
  const third = v128.load(at)
  at += step
  const fourth = v128.load(at)
  let least = f32x4.pmin(f32x4.pmin(first, second), f32x4.pmin(third, fourth))
  let most = f32x4.pmax(f32x4.pmax(first, second), f32x4.pmax(third, fourth))
  for (let t = 4; t < count; t++) {
    at += step
    const other = v128.load(at)
    least = f32x4.pmin(least, other)
    most = f32x4.pmax(most, other)
  }
  return heldWithin(value, least, most, room)
}

/** Four rows side by side: each vector holds one place of all four. `width` in whole vectors. */
function sideBySide(first: usize, second: usize, third: usize, fourth: usize, target: usize, width: i32): void {
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
    storeTurned(v128.load(first + i), v128.load(second + i), v128.load(third + i), v128.load(fourth + i), target + (i << 2), 16, 32, 48)
}

/** One output of four rows that lie side by side. */
// @ts-ignore: decorator
@inline
function weighed(at: usize, weight: usize, tapBytes: usize): v128 {
  let a = f32x4.splat(0)
  let b = f32x4.splat(0)
  let c = f32x4.splat(0)
  let d = f32x4.splat(0)
  let t: usize = 0
  for (; t + 16 <= tapBytes; t += 16) {
    const from = at + (t << 2)
    a = f32x4.add(a, f32x4.mul(v128.load(from), v128.load32_splat(weight + t)))
    b = f32x4.add(b, f32x4.mul(v128.load(from, 16), v128.load32_splat(weight + t, 4)))
    c = f32x4.add(c, f32x4.mul(v128.load(from, 32), v128.load32_splat(weight + t, 8)))
    d = f32x4.add(d, f32x4.mul(v128.load(from, 48), v128.load32_splat(weight + t, 12)))
  }
  const from = at + (t << 2)
  if (t < tapBytes) a = f32x4.add(a, f32x4.mul(v128.load(from), v128.load32_splat(weight + t)))
  if (t + 4 < tapBytes) b = f32x4.add(b, f32x4.mul(v128.load(from, 16), v128.load32_splat(weight + t, 4)))
  if (t + 8 < tapBytes) c = f32x4.add(c, f32x4.mul(v128.load(from, 32), v128.load32_splat(weight + t, 8)))
  return f32x4.add(f32x4.add(a, c), f32x4.add(b, d))
}

/**
 * Output x = Σ weights[x][t] · input starts[x] + t, for every row, each held within its surroundings as in `resampleColumns`. Rows of input
 * and output in whole vectors. `side`: room for four rows of the input.
 */
export function resampleRows(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32, from: usize, count: i32, beyond: f32, side: usize): void {
  const tapBytes: usize = <usize>taps << 2
  const room = f32x4.splat(beyond)
  // Behind the last row it stands for those that are missing, and behind the last output that one: the same is written twice.
  const last = width - 1
  for (let y = 0; y < rows; y += 4) {
    const second = min(y + 1, rows - 1)
    const third = min(y + 2, rows - 1)
    const fourth = min(y + 3, rows - 1)
    sideBySide(source + rowAt(y, sourceStride), source + rowAt(second, sourceStride), source + rowAt(third, sourceStride), source + rowAt(fourth, sourceStride), side, sourceStride)
    for (let x = 0; x < width; x += 4) {
      const a = outputAt(x, side, starts, weights, tapBytes, from, count, room)
      const b = outputAt(min(x + 1, last), side, starts, weights, tapBytes, from, count, room)
      const c = outputAt(min(x + 2, last), side, starts, weights, tapBytes, from, count, room)
      const d = outputAt(min(x + 3, last), side, starts, weights, tapBytes, from, count, room)
      const to = target + rowAt(y, targetStride) + (<usize>x << 2)
      storeTurned(a, b, c, d, to, rowAt(second - y, targetStride), rowAt(third - y, targetStride), rowAt(fourth - y, targetStride))
    }
  }
}

// @ts-ignore: decorator
@inline
function rowAt(y: i32, stride: i32): usize {
  return (<usize>(y * stride)) << 2
}

// @ts-ignore: decorator
@inline
function outputAt(x: i32, side: usize, starts: usize, weights: usize, tapBytes: usize, from: usize, count: i32, room: v128): v128 {
  const place = <usize>x << 2
  const at = side + (<usize>i32.load(starts + place) << 4)
  const value = weighed(at, weights + <usize>x * tapBytes, tapBytes)
  return count == 0 ? value : heldNear(value, at + (<usize>i32.load(from + place) << 4), 16, count, room)
}

/** target (x, y) = source at x·stepX + y·stepY floats from its start: mirrors and quarter turns. */
export function copyTurned(source: usize, stepX: i32, stepY: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    let from = source + ((<usize>(y * stepY)) << 2)
    let to = target + ((<usize>(y * targetStride)) << 2)
    for (let x = 0; x < width; x++) {
      f32.store(to, f32.load(from))
      from += (<usize>stepX) << 2
      to += 4
    }
  }
}

/** Repeats the edges of a part of a plane, its rows top … bottom − 1 and columns left … right − 1, outwards to the plane's ends. */
export function repeatEdges(plane: usize, stride: i32, width: i32, height: i32, left: i32, top: i32, right: i32, bottom: i32): void {
  const rowBytes: usize = <usize>stride << 2
  const x: usize = <usize>left << 2
  const end: usize = <usize>right << 2
  const last: usize = <usize>width << 2
  for (let y = top; y < bottom; y++) {
    const row = plane + <usize>y * rowBytes
    const before = f32.load(row + x)
    const behind = f32.load(row + end - 4)
    for (let at: usize = 0; at < x; at += 4) f32.store(row + at, before)
    for (let at = end; at < last; at += 4) f32.store(row + at, behind)
  }
  const highest = plane + <usize>top * rowBytes
  const lowest = plane + <usize>(bottom - 1) * rowBytes
  for (let y = 0; y < top; y++) memory.copy(plane + <usize>y * rowBytes, highest, last)
  for (let y = bottom; y < height; y++) memory.copy(plane + <usize>y * rowBytes, lowest, last)
}
