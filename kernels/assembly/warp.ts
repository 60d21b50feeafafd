// Projective resampling with Catmull-Rom's cubic (Mitchell & Netravali 1988, B = 0, C = ½), four pixels at a time.
import { putTurned } from './turned'

/** What four pixels take of the four samples around them, from first to last, a vector for each pixel. */
const across = memory.data(64, 16)
const down = memory.data(64, 16)
/** Each pixel's four columns, weighed, for each channel. */
const weighed = memory.data(192, 16)

/** The cubic's weights for four places between samples. */
function layWeights(target: usize, t: v128): void {
  const half = f32x4.splat(0.5)
  const minusHalf = f32x4.splat(-0.5)
  const t2 = f32x4.mul(t, t)
  const t3 = f32x4.mul(t2, t)
  const halfT = f32x4.mul(half, t)
  const first = f32x4.sub(f32x4.add(f32x4.mul(minusHalf, t3), t2), halfT)
  const second = f32x4.add(f32x4.sub(f32x4.mul(f32x4.splat(1.5), t3), f32x4.mul(f32x4.splat(2.5), t2)), f32x4.splat(1))
  const third = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(-1.5), t3), f32x4.mul(f32x4.splat(2), t2)), halfT)
  const fourth = f32x4.sub(f32x4.mul(half, t3), f32x4.mul(half, t2))
  putTurned(target, 16, first, second, third, fourth)
}

/** Four columns of four rows, one value for each. */
// @ts-ignore: decorator
@inline
function columnsAt(at: usize, rowBytes: usize, a: v128, b: v128, c: v128, d: v128): v128 {
  let sum = f32x4.mul(v128.load(at), a)
  sum = f32x4.add(sum, f32x4.mul(v128.load(at + rowBytes), b))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at + 2 * rowBytes), c))
  return f32x4.add(sum, f32x4.mul(v128.load(at + 3 * rowBytes), d))
}

/** One of four pixels: what its rows and columns come to before they are added up. */
// @ts-ignore: decorator
@inline
function weigh(pixel: usize, offset: i32, r: usize, g: usize, b: usize, rowBytes: usize): void {
  const at: usize = <usize>offset << 2
  const columns = v128.load(across + pixel)
  const first = v128.load32_splat(down + pixel)
  const second = v128.load32_splat(down + pixel, 4)
  const third = v128.load32_splat(down + pixel, 8)
  const fourth = v128.load32_splat(down + pixel, 12)
  v128.store(weighed + pixel, f32x4.mul(columnsAt(r + at, rowBytes, first, second, third, fourth), columns))
  v128.store(weighed + pixel, f32x4.mul(columnsAt(g + at, rowBytes, first, second, third, fourth), columns), 64)
  v128.store(weighed + pixel, f32x4.mul(columnsAt(b + at, rowBytes, first, second, third, fourth), columns), 128)
}

/** The values of four pixels: the first and third of their columns, the second and fourth, and these together. */
// @ts-ignore: decorator
@inline
function storeSums(target: usize, from: usize): void {
  putTurned(from, 16, v128.load(from), v128.load(from, 16), v128.load(from, 32), v128.load(from, 48))
  const even = f32x4.add(v128.load(from), v128.load(from, 32))
  v128.store(target, f32x4.add(even, f32x4.add(v128.load(from, 16), v128.load(from, 48))))
}

/** Where two pixels lie along one side of the picture before, held inside it. */
// @ts-ignore: decorator
@inline
function placeOf(px: v128, base: f64, step: f64, w: v128, last: f64): v128 {
  const at = f64x2.div(f64x2.add(f64x2.splat(base), f64x2.mul(f64x2.splat(step), px)), w)
  return f64x2.pmin(f64x2.pmax(f64x2.splat(0), f64x2.sub(at, f64x2.splat(0.5))), f64x2.splat(last))
}

/** Two pairs of numbers in one vector. */
// @ts-ignore: decorator
@inline
function joined(low: v128, high: v128): v128 {
  return v128.shuffle<i32>(low, high, 0, 1, 4, 5)
}

/**
 * One row of a projective picture. Output pixel x + ½, y + ½ lies in the picture before at (u, v) / w with (u, v, w) = m · (x, y, 1);
 * `m`: nine 64-bit floats. Places outside take the nearest edge. The source planes are a window that begins at (left, top) of a picture
 * of `pictureWidth` × `pictureHeight` and holds two pixels around every place asked for. Whole vectors are written.
 */
export function warpRow(r: usize, g: usize, b: usize, stride: i32, left: i32, top: i32, pictureWidth: i32, pictureHeight: i32, targetR: usize, targetG: usize, targetB: usize, width: i32, x: i32, y: i32, m: usize): void {
  const rowBytes: usize = <usize>stride << 2
  const py: f64 = <f64>y + 0.5
  const baseU = load<f64>(m, 8) * py + load<f64>(m, 16)
  const baseV = load<f64>(m, 32) * py + load<f64>(m, 40)
  const baseW = load<f64>(m, 56) * py + load<f64>(m, 64)
  const stepU = load<f64>(m)
  const stepV = load<f64>(m, 24)
  const stepW = load<f64>(m, 48)
  const lastU = <f64>(pictureWidth - 1)
  const lastV = <f64>(pictureHeight - 1)
  const half = f64x2.splat(0.5)
  for (let i = 0; i < width; i += 4) {
    // Behind the last pixel it stands for those that are missing: the window holds nothing for them.
    const columns = i32x4.add(i32x4.min_s(i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3)), i32x4.splat(width - 1)), i32x4.splat(x))
    const low = f64x2.add(f64x2.convert_low_i32x4_s(columns), half)
    const high = f64x2.add(f64x2.convert_low_i32x4_s(v128.shuffle<i32>(columns, columns, 2, 3, 2, 3)), half)
    const wLow = f64x2.add(f64x2.splat(baseW), f64x2.mul(f64x2.splat(stepW), low))
    const wHigh = f64x2.add(f64x2.splat(baseW), f64x2.mul(f64x2.splat(stepW), high))
    const uLow = placeOf(low, baseU, stepU, wLow, lastU)
    const uHigh = placeOf(high, baseU, stepU, wHigh, lastU)
    const vLow = placeOf(low, baseV, stepV, wLow, lastV)
    const vHigh = placeOf(high, baseV, stepV, wHigh, lastV)
    const columnLow = f64x2.floor(uLow)
    const columnHigh = f64x2.floor(uHigh)
    const rowLow = f64x2.floor(vLow)
    const rowHigh = f64x2.floor(vHigh)
    layWeights(across, joined(f32x4.demote_f64x2_zero(f64x2.sub(uLow, columnLow)), f32x4.demote_f64x2_zero(f64x2.sub(uHigh, columnHigh))))
    layWeights(down, joined(f32x4.demote_f64x2_zero(f64x2.sub(vLow, rowLow)), f32x4.demote_f64x2_zero(f64x2.sub(vHigh, rowHigh))))
    const column = joined(i32x4.trunc_sat_f64x2_s_zero(columnLow), i32x4.trunc_sat_f64x2_s_zero(columnHigh))
    const row = joined(i32x4.trunc_sat_f64x2_s_zero(rowLow), i32x4.trunc_sat_f64x2_s_zero(rowHigh))
    const rows = i32x4.mul(i32x4.sub(row, i32x4.splat(1 + top)), i32x4.splat(stride))
    const offsets = i32x4.add(rows, i32x4.sub(column, i32x4.splat(1 + left)))
    weigh(0, i32x4.extract_lane(offsets, 0), r, g, b, rowBytes)
    weigh(16, i32x4.extract_lane(offsets, 1), r, g, b, rowBytes)
    weigh(32, i32x4.extract_lane(offsets, 2), r, g, b, rowBytes)
    weigh(48, i32x4.extract_lane(offsets, 3), r, g, b, rowBytes)
    const to: usize = <usize>i << 2
    storeSums(targetR + to, weighed)
    storeSums(targetG + to, weighed + 64)
    storeSums(targetB + to, weighed + 128)
  }
}
