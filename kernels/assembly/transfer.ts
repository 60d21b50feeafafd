// The sRGB transfer function (IEC 61966-2-1), continued oddly below 0 and by its power law above 1.
// Polynomials on the common range, printed by scripts/fit-polynomials.mjs: worst error 0.15 (decode)
// and 0.11 (encode) of a 16-bit code.
import { oddPowerx4 } from './math'

const signBit: i32 = i32(0x80000000)

// @ts-ignore: decorator
@inline
export function encodeSrgbx4(linear: v128): v128 {
  const sign = v128.and(linear, i32x4.splat(signBit))
  const x = f32x4.abs(linear)
  const u = f32x4.sqrt(f32x4.sqrt(x))
  let p = f32x4.splat(0.06487332284450531)
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(-0.30603697896003723))
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(0.6387694478034973))
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(-0.8389653563499451))
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(1.3602255582809448))
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(0.14077678322792053))
  p = f32x4.add(f32x4.mul(p, u), f32x4.splat(-0.059641748666763306))
  const above = f32x4.gt(x, f32x4.splat(1))
  if (v128.any_true(above)) {
    const power = f32x4.sub(f32x4.mul(oddPowerx4(x, f32x4.splat(0.41666666)), f32x4.splat(1.055)), f32x4.splat(0.055))
    p = v128.bitselect(power, p, above)
  }
  p = v128.bitselect(f32x4.mul(x, f32x4.splat(12.92)), p, f32x4.le(x, f32x4.splat(0.0031308)))
  return v128.or(sign, p)
}

// @ts-ignore: decorator
@inline
export function decodeSrgbx4(encoded: v128): v128 {
  const sign = v128.and(encoded, i32x4.splat(signBit))
  const v = f32x4.abs(encoded)
  let p = f32x4.splat(0.05604309216141701)
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(-0.2552374303340912))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(0.5118412971496582))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(-0.6393696665763855))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(0.7952160239219666))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(0.4961402118206024))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(0.034492477774620056))
  p = f32x4.add(f32x4.mul(p, v), f32x4.splat(0.000875111494679004))
  const above = f32x4.gt(v, f32x4.splat(1))
  if (v128.any_true(above)) {
    const base = f32x4.mul(f32x4.add(v, f32x4.splat(0.055)), f32x4.splat(0.9478673))
    p = v128.bitselect(oddPowerx4(base, f32x4.splat(2.4)), p, above)
  }
  p = v128.bitselect(f32x4.mul(v, f32x4.splat(0.07739938)), p, f32x4.le(v, f32x4.splat(0.04045)))
  return v128.or(sign, p)
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
