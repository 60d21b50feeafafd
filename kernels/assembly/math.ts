// Elementary functions on four floats at a time. Every lane is computed by the same formula whatever
// its neighbours are, so results do not depend on where a tile begins.
//
// Coefficients are read from memory: engines build a vector constant anew at every use, in three or four
// instructions, but splat one from memory in one. For the same reason there is pmin/pmax instead of min/max
// (which must treat not-a-number), and rounding by a magic number instead of nearest and trunc_sat.

/** 0: smallest magnitude, 1: 1, 2–6: atanh series over ln 2, 7–14: 2^f Taylor, 15: rounding magic 1.5·2^23, 16, 17: exponent range, 18: 1/(3·512), 19: 3, 20: 2^23 */
const table = memory.data<f32>([
  1e-30, 1.0, 0.32059889, 0.41219858, 0.57707802, 0.96179669, 2.88539008, 1.5252734e-5, 1.540353e-4, 1.3333558e-3, 9.6181291e-3, 5.5504109e-2,
  2.4022651e-1, 6.9314718e-1, 1.0, 12582912.0, 126.0, -126.0, 6.510417e-4, 3.0,
  8388608.0,
])
const bits = memory.data<i32>([0x3f3504f3, i32(0x80000000), 0x2a5137a0])

// @ts-ignore: decorator
@inline
function c(index: usize): v128 {
  return v128.load32_splat(table + (index << 2))
}

/** a·x + b. Polynomials are summed in pairs (Estrin 1960), not term by term: half the waiting on earlier results. */
// @ts-ignore: decorator
@inline
export function linear(a: v128, x: v128, b: v128): v128 {
  return f32x4.add(f32x4.mul(a, x), b)
}

// @ts-ignore: decorator
@inline
export function signOf(x: v128): v128 {
  return v128.and(x, v128.load32_splat(bits + 4))
}

/** log2 of positive floats; absolute error below 3e-7 for 1e-30…1e30. atanh series about 1, exponent split off. */
// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const exponent = i32x4.shr_s(i32x4.sub(x, v128.load32_splat(bits)), 23)
  const mantissa = i32x4.sub(x, i32x4.shl(exponent, 23))
  const t = f32x4.div(f32x4.sub(mantissa, c(1)), f32x4.add(mantissa, c(1)))
  const t2 = f32x4.mul(t, t)
  const t4 = f32x4.mul(t2, t2)
  const high = f32x4.add(f32x4.mul(c(2), t4), linear(c(3), t2, c(4)))
  const p = f32x4.add(f32x4.mul(high, t4), linear(c(5), t2, c(6)))
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(p, t))
}

/** 2^y for y in −126…126, clamped outside; relative error below 2e-7. Taylor series of degree 7 on ±½. */
// @ts-ignore: decorator
@inline
export function exp2x4(y: v128): v128 {
  const bounded = f32x4.pmax(f32x4.pmin(y, c(16)), c(17))
  const rounded = f32x4.add(bounded, c(15))
  const f = f32x4.sub(bounded, f32x4.sub(rounded, c(15)))
  const f2 = f32x4.mul(f, f)
  const high = linear(linear(c(7), f, c(8)), f2, linear(c(9), f, c(10)))
  const low = linear(linear(c(11), f, c(12)), f2, linear(c(13), f, c(14)))
  const p = linear(high, f32x4.mul(f2, f2), low)
  return i32x4.add(p, i32x4.shl(rounded, 23))
}

/** sign(x) · |x|^exponent; 0 stays 0 to within 1e-30^exponent. */
// @ts-ignore: decorator
@inline
export function oddPowerx4(x: v128, exponent: v128): v128 {
  const magnitude = f32x4.pmax(f32x4.abs(x), c(0))
  return v128.or(signOf(x), exp2x4(f32x4.mul(log2x4(magnitude), exponent)))
}

/**
 * Cube root, odd, relative error below 3e-7: a first guess from the exponent bits, one Halley and one Newton step.
 * Magnitudes are held above 1e-30, because denormal intermediates cost 17–34× on common processors.
 */
// @ts-ignore: decorator
@inline
export function cubeRootx4(x: v128): v128 {
  const a = f32x4.pmax(f32x4.abs(x), c(0))
  // A third of the bits, rounded to 512 of them: adding 2²³ leaves it in the last bits, and shifting drops the 2²³.
  const third = i32x4.shl(f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(a), c(18)), c(20)), 9)
  let y = i32x4.add(third, v128.load32_splat(bits + 8))
  let cube = f32x4.mul(f32x4.mul(y, y), y)
  const twiceA = f32x4.add(a, a)
  y = f32x4.mul(y, f32x4.div(f32x4.add(cube, twiceA), f32x4.add(f32x4.add(cube, cube), a)))
  const square = f32x4.mul(y, y)
  cube = f32x4.mul(square, y)
  y = f32x4.sub(y, f32x4.div(f32x4.sub(cube, a), f32x4.mul(square, c(19))))
  return v128.or(signOf(x), y)
}
