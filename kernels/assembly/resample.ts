// Separable resampling of one plane with a weight table (src/pixels/resampling.ts). `starts` are relative
// to the plane handed in, `taps` along rows is a multiple of 4, strides are in floats.

/** Output row y = Σ weights[y][t] · input row starts[y] + t. `width` in whole vectors. */
export function resampleColumns(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < rows; y++) {
    const first = source + <usize>i32.load(starts + ((<usize>y) << 2)) * rowBytes
    const weightRow = weights + ((<usize>(y * taps)) << 2)
    const to = target + ((<usize>(y * targetStride)) << 2)
    const end: usize = <usize>width << 2
    let i: usize = 0
    // Four vectors at a time share each weight; the remainder does the same sums one by one.
    for (; i + 64 <= end; i += 64) {
      let a = f32x4.splat(0)
      let b = f32x4.splat(0)
      let c = f32x4.splat(0)
      let d = f32x4.splat(0)
      let at = first + i
      for (let t: usize = 0, last: usize = <usize>taps << 2; t < last; t += 4) {
        const w = v128.load32_splat(weightRow + t)
        a = f32x4.add(a, f32x4.mul(v128.load(at), w))
        b = f32x4.add(b, f32x4.mul(v128.load(at, 16), w))
        c = f32x4.add(c, f32x4.mul(v128.load(at, 32), w))
        d = f32x4.add(d, f32x4.mul(v128.load(at, 48), w))
        at += rowBytes
      }
      v128.store(to + i, a)
      v128.store(to + i, b, 16)
      v128.store(to + i, c, 32)
      v128.store(to + i, d, 48)
    }
    for (; i < end; i += 16) {
      let a = f32x4.splat(0)
      let at = first + i
      for (let t: usize = 0, last: usize = <usize>taps << 2; t < last; t += 4) {
        a = f32x4.add(a, f32x4.mul(v128.load(at), v128.load32_splat(weightRow + t)))
        at += rowBytes
      }
      v128.store(to + i, a)
    }
  }
}

// @ts-ignore: decorator
@inline
function sumLanes(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 2) + (f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 3))
}

// @ts-ignore: decorator
@inline
function weighed(at: usize, weight: usize, tapBytes: usize): v128 {
  let sum = f32x4.splat(0)
  for (let t: usize = 0; t < tapBytes; t += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(at + t), v128.load(weight + t)))
  return sum
}

/** Four vectors, each added up over its lanes in the order of `sumLanes`. */
// @ts-ignore: decorator
@inline
function sumsOf(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(a, b, 2, 6, 3, 7))
  const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 2, 6, 3, 7))
  return f32x4.add(v128.shuffle<f32>(ab, cd, 0, 1, 4, 5), v128.shuffle<f32>(ab, cd, 2, 3, 6, 7))
}

/** Output x = Σ weights[x][t] · input starts[x] + t, for every row. */
export function resampleRows(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32): void {
  const tapBytes: usize = <usize>taps << 2
  const whole = width & ~3
  for (let y = 0; y < rows; y++) {
    const row = source + ((<usize>(y * sourceStride)) << 2)
    const to = target + ((<usize>(y * targetStride)) << 2)
    let weight = weights
    for (let x = 0; x < whole; x += 4) {
      const place = (<usize>x) << 2
      const values = sumsOf(
        weighed(row + (<usize>i32.load(starts + place) << 2), weight, tapBytes),
        weighed(row + (<usize>i32.load(starts + place, 4) << 2), weight + tapBytes, tapBytes),
        weighed(row + (<usize>i32.load(starts + place, 8) << 2), weight + 2 * tapBytes, tapBytes),
        weighed(row + (<usize>i32.load(starts + place, 12) << 2), weight + 3 * tapBytes, tapBytes),
      )
      weight += 4 * tapBytes
      v128.store(to + place, values)
    }
    for (let x = whole; x < width; x++) {
      const place = (<usize>x) << 2
      f32.store(to + place, sumLanes(weighed(row + (<usize>i32.load(starts + place) << 2), weight, tapBytes)))
      weight += tapBytes
    }
  }
}

/**
 * A value held within what its surroundings have: between the least and the most of them, and a little beyond. How much is a share of the
 * root of the light: about so many codes of an encoded picture, dark or bright.
 */
// @ts-ignore: decorator
@inline
function heldWithin(value: v128, least: v128, most: v128, beyond: v128): v128 {
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
 * As `resampleColumns`, each value held within its surroundings: input rows starts[y] + from[y] and the `count` − 1 behind it.
 * `beyond`: see `heldWithin`.
 */
export function resampleColumnsHeld(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32, from: usize, count: i32, beyond: f32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  const room = f32x4.splat(beyond)
  for (let y = 0; y < rows; y++) {
    const place = (<usize>y) << 2
    const near = <usize>(i32.load(starts + place) + i32.load(from + place)) * rowBytes
    for (let x = 0; x < width; x += pieceWidth) {
      const piece = source + ((<usize>x) << 2)
      const to = target + ((<usize>(y * targetStride + x)) << 2)
      const wide = min(pieceWidth, width - x)
      resampleColumns(piece, sourceStride, to, targetStride, wide, 1, starts + place, weights + ((<usize>(y * taps)) << 2), taps)
      for (let i: usize = 0, end: usize = <usize>wide << 2; i < end; i += 16) {
        let at = piece + near + i
        let least = v128.load(at)
        let most = least
        for (let t = 1; t < count; t++) {
          at += rowBytes
          const value = v128.load(at)
          least = f32x4.pmin(least, value)
          most = f32x4.pmax(most, value)
        }
        v128.store(to + i, heldWithin(v128.load(to + i), least, most, room))
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function leastsOf(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmin(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(a, b, 2, 6, 3, 7))
  const cd = f32x4.pmin(v128.shuffle<f32>(c, d, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 2, 6, 3, 7))
  return f32x4.pmin(v128.shuffle<f32>(ab, cd, 0, 1, 4, 5), v128.shuffle<f32>(ab, cd, 2, 3, 6, 7))
}

// @ts-ignore: decorator
@inline
function mostsOf(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmax(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(a, b, 2, 6, 3, 7))
  const cd = f32x4.pmax(v128.shuffle<f32>(c, d, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 2, 6, 3, 7))
  return f32x4.pmax(v128.shuffle<f32>(ab, cd, 0, 1, 4, 5), v128.shuffle<f32>(ab, cd, 2, 3, 6, 7))
}

/** The least of `count` samples, four and more, lane by lane: the last vector overlaps the one before it. */
// @ts-ignore: decorator
@inline
function leastNear(at: usize, lastVector: usize): v128 {
  let least = v128.load(at + lastVector)
  for (let t: usize = 0; t < lastVector; t += 16) least = f32x4.pmin(least, v128.load(at + t))
  return least
}

// @ts-ignore: decorator
@inline
function mostNear(at: usize, lastVector: usize): v128 {
  let most = v128.load(at + lastVector)
  for (let t: usize = 0; t < lastVector; t += 16) most = f32x4.pmax(most, v128.load(at + t))
  return most
}

/**
 * As `resampleRows`, each value held within its surroundings: input samples starts[x] + from[x] and the `count` − 1 behind it, four at least.
 */
export function resampleRowsHeld(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32, from: usize, count: i32, beyond: f32): void {
  const tapBytes: usize = <usize>taps << 2
  const lastVector: usize = (<usize>max(count, 4) - 4) << 2
  const room = f32x4.splat(beyond)
  const whole = width & ~3
  for (let y = 0; y < rows; y++) {
    const row = source + ((<usize>(y * sourceStride)) << 2)
    const to = target + ((<usize>(y * targetStride)) << 2)
    let weight = weights
    for (let x = 0; x < whole; x += 4) {
      const place = (<usize>x) << 2
      const a = row + (<usize>i32.load(starts + place) << 2)
      const b = row + (<usize>i32.load(starts + place, 4) << 2)
      const c = row + (<usize>i32.load(starts + place, 8) << 2)
      const d = row + (<usize>i32.load(starts + place, 12) << 2)
      const values = sumsOf(
        weighed(a, weight, tapBytes),
        weighed(b, weight + tapBytes, tapBytes),
        weighed(c, weight + 2 * tapBytes, tapBytes),
        weighed(d, weight + 3 * tapBytes, tapBytes),
      )
      weight += 4 * tapBytes
      const nearA = a + (<usize>i32.load(from + place) << 2)
      const nearB = b + (<usize>i32.load(from + place, 4) << 2)
      const nearC = c + (<usize>i32.load(from + place, 8) << 2)
      const nearD = d + (<usize>i32.load(from + place, 12) << 2)
      const least = leastsOf(leastNear(nearA, lastVector), leastNear(nearB, lastVector), leastNear(nearC, lastVector), leastNear(nearD, lastVector))
      const most = mostsOf(mostNear(nearA, lastVector), mostNear(nearB, lastVector), mostNear(nearC, lastVector), mostNear(nearD, lastVector))
      v128.store(to + place, heldWithin(values, least, most, room))
    }
    for (let x = whole; x < width; x++) {
      const place = (<usize>x) << 2
      const at = row + (<usize>i32.load(starts + place) << 2)
      const near = at + (<usize>i32.load(from + place) << 2)
      const values = f32x4.splat(sumLanes(weighed(at, weight, tapBytes)))
      weight += tapBytes
      const low = leastNear(near, lastVector)
      const high = mostNear(near, lastVector)
      f32.store(to + place, f32x4.extract_lane(heldWithin(values, leastsOf(low, low, low, low), mostsOf(high, high, high, high), room), 0))
    }
  }
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
