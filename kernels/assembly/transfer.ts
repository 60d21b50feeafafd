// The sRGB transfer function (IEC 61966-2-1), continued oddly below 0 and by its power law above 1.
// Polynomials on the common range, printed by scripts/fit-polynomials.mjs: worst error 0.15 (decode)
// and 0.11 (encode) of a 16-bit code.
import { linear, oddPowerx4, signOf } from './math'

/** Highest power first: 0–6 in the fourth root of the linear value; then 7: 1, 8: 1/2.4, 9: 1.055, 10: 0.055, 11: 12.92, 12: 0.0031308. */
const encodeTable = memory.data<f32>([
  0.06487332284450531, -0.30603697896003723, 0.6387694478034973, -0.8389653563499451, 1.3602255582809448, 0.14077678322792053,
  -0.059641748666763306, 1.0, 0.41666666, 1.055, 0.055, 12.92, 0.0031308,
])
/** Highest power first: 0–7 in the encoded value; then 8: 1, 9: 2.4, 10: 1/1.055, 11: 0.055, 12: 1/12.92, 13: 0.04045. */
const decodeTable = memory.data<f32>([
  0.05604309216141701, -0.2552374303340912, 0.5118412971496582, -0.6393696665763855, 0.7952160239219666, 0.4961402118206024, 0.034492477774620056,
  0.000875111494679004, 1.0, 2.4, 0.9478673, 0.055, 0.07739938, 0.04045,
])

// @ts-ignore: decorator
@inline
function e(index: usize): v128 {
  return v128.load32_splat(encodeTable + (index << 2))
}
// @ts-ignore: decorator
@inline
function d(index: usize): v128 {
  return v128.load32_splat(decodeTable + (index << 2))
}

/*
 * One plane after the other, with its coefficients in locals: engines do not take loads out of a loop that stores, and three planes at
 * once leave no register for them. Half as much time again is spent otherwise.
 */

// @ts-ignore: decorator
@inline
function encodePlane(plane: usize, end: usize): void {
  const c0 = e(0)
  const c1 = e(1)
  const c2 = e(2)
  const c3 = e(3)
  const c4 = e(4)
  const c5 = e(5)
  const c6 = e(6)
  const one = e(7)
  for (let i: usize = 0; i < end; i += 16) {
    const light = v128.load(plane + i)
    const x = f32x4.abs(light)
    const u = f32x4.sqrt(f32x4.sqrt(x))
    const u2 = f32x4.mul(u, u)
    const high = linear(c0, u2, linear(c1, u, c2))
    let p = linear(high, f32x4.mul(u2, u2), linear(linear(c3, u, c4), u2, linear(c5, u, c6)))
    const above = f32x4.gt(x, one)
    if (v128.any_true(above)) p = v128.bitselect(f32x4.sub(f32x4.mul(oddPowerx4(x, e(8)), e(9)), e(10)), p, above)
    p = v128.bitselect(f32x4.mul(x, e(11)), p, f32x4.le(x, e(12)))
    v128.store(plane + i, v128.or(signOf(light), p))
  }
}

// @ts-ignore: decorator
@inline
function decodePlane(plane: usize, end: usize): void {
  const c0 = d(0)
  const c1 = d(1)
  const c2 = d(2)
  const c3 = d(3)
  const c4 = d(4)
  const c5 = d(5)
  const c6 = d(6)
  const c7 = d(7)
  const one = d(8)
  for (let i: usize = 0; i < end; i += 16) {
    const encoded = v128.load(plane + i)
    const v = f32x4.abs(encoded)
    const v2 = f32x4.mul(v, v)
    const high = linear(linear(c0, v, c1), v2, linear(c2, v, c3))
    let p = linear(high, f32x4.mul(v2, v2), linear(linear(c4, v, c5), v2, linear(c6, v, c7)))
    const above = f32x4.gt(v, one)
    if (v128.any_true(above)) p = v128.bitselect(oddPowerx4(f32x4.mul(f32x4.add(v, d(11)), d(10)), d(9)), p, above)
    p = v128.bitselect(f32x4.mul(v, d(12)), p, f32x4.le(v, d(13)))
    v128.store(plane + i, v128.or(signOf(encoded), p))
  }
}

/** Three planes of `count` floats (a multiple of 4), in place. */
export function toEncoded(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  encodePlane(r, <usize>count << 2)
  encodePlane(g, <usize>count << 2)
  encodePlane(b, <usize>count << 2)
}

/** The inverse of `toEncoded`. */
export function toLinear(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  decodePlane(r, <usize>count << 2)
  decodePlane(g, <usize>count << 2)
  decodePlane(b, <usize>count << 2)
}
