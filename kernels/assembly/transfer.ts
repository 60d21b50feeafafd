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

// @ts-ignore: decorator
@inline
export function encodeSrgbx4(light: v128): v128 {
  const x = f32x4.abs(light)
  const u = f32x4.sqrt(f32x4.sqrt(x))
  const u2 = f32x4.mul(u, u)
  const high = linear(e(0), u2, linear(e(1), u, e(2)))
  let p = linear(high, f32x4.mul(u2, u2), linear(linear(e(3), u, e(4)), u2, linear(e(5), u, e(6))))
  const above = f32x4.gt(x, e(7))
  if (v128.any_true(above)) p = v128.bitselect(f32x4.sub(f32x4.mul(oddPowerx4(x, e(8)), e(9)), e(10)), p, above)
  p = v128.bitselect(f32x4.mul(x, e(11)), p, f32x4.le(x, e(12)))
  return v128.or(signOf(light), p)
}

// @ts-ignore: decorator
@inline
export function decodeSrgbx4(encoded: v128): v128 {
  const v = f32x4.abs(encoded)
  const v2 = f32x4.mul(v, v)
  const high = linear(linear(d(0), v, d(1)), v2, linear(d(2), v, d(3)))
  let p = linear(high, f32x4.mul(v2, v2), linear(linear(d(4), v, d(5)), v2, linear(d(6), v, d(7))))
  const above = f32x4.gt(v, d(8))
  if (v128.any_true(above)) p = v128.bitselect(oddPowerx4(f32x4.mul(f32x4.add(v, d(11)), d(10)), d(9)), p, above)
  p = v128.bitselect(f32x4.mul(v, d(12)), p, f32x4.le(v, d(13)))
  return v128.or(signOf(encoded), p)
}

/** Three planes of `count` floats (a multiple of 4), in place. */
export function toEncoded(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(r + i, encodeSrgbx4(v128.load(r + i)))
    v128.store(g + i, encodeSrgbx4(v128.load(g + i)))
    v128.store(b + i, encodeSrgbx4(v128.load(b + i)))
  }
}

/** The inverse of `toEncoded`. */
export function toLinear(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(r + i, decodeSrgbx4(v128.load(r + i)))
    v128.store(g + i, decodeSrgbx4(v128.load(g + i)))
    v128.store(b + i, decodeSrgbx4(v128.load(b + i)))
  }
}

// @ts-ignore: decorator
@inline
function row(p: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(p), x), f32x4.mul(v128.load32_splat(p, 4), y)),
    f32x4.mul(v128.load32_splat(p, 8), z),
  )
}

/** A matrix, the transfer function, another matrix. parameters: 18 floats, row-major. */
export function encodeBetween(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    const u = encodeSrgbx4(row(parameters, x, y, z))
    const v = encodeSrgbx4(row(parameters + 12, x, y, z))
    const w = encodeSrgbx4(row(parameters + 24, x, y, z))
    v128.store(r + i, row(parameters + 36, u, v, w))
    v128.store(g + i, row(parameters + 48, u, v, w))
    v128.store(b + i, row(parameters + 60, u, v, w))
  }
}

/** A matrix, the inverse of the transfer function, another matrix. parameters: 18 floats, row-major. */
export function decodeBetween(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    const u = decodeSrgbx4(row(parameters, x, y, z))
    const v = decodeSrgbx4(row(parameters + 12, x, y, z))
    const w = decodeSrgbx4(row(parameters + 24, x, y, z))
    v128.store(r + i, row(parameters + 36, u, v, w))
    v128.store(g + i, row(parameters + 48, u, v, w))
    v128.store(b + i, row(parameters + 60, u, v, w))
  }
}
