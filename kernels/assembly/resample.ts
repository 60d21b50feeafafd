// Separable resampling of one plane with a weight table (src/pixels/resampling.ts). `starts` are relative
// to the plane handed in, `taps` is a multiple of 4, strides are in floats.

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

/** Output x = Σ weights[x][t] · input starts[x] + t, for every row. */
export function resampleRows(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, rows: i32, starts: usize, weights: usize, taps: i32): void {
  const tapBytes: usize = <usize>taps << 2
  for (let y = 0; y < rows; y++) {
    const from = source + ((<usize>(y * sourceStride)) << 2)
    const to = target + ((<usize>(y * targetStride)) << 2)
    let weight = weights
    for (let x = 0; x < width; x++) {
      let at = from + (<usize>i32.load(starts + ((<usize>x) << 2)) << 2)
      let sum = f32x4.splat(0)
      for (let t: usize = 0; t < tapBytes; t += 16) {
        sum = f32x4.add(sum, f32x4.mul(v128.load(at), v128.load(weight)))
        at += 16
        weight += 16
      }
      f32.store(to + ((<usize>x) << 2), sumLanes(sum))
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
