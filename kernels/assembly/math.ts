// Elementary functions on four floats at a time. Every lane is computed by the same formula whatever
// its neighbours are, so results do not depend on where a tile begins.

/** log2 of positive floats; absolute error below 3e-7 for 1e-30…1e30. atanh series about 1, exponent split off. */
// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const exponent = i32x4.shr_s(i32x4.sub(x, i32x4.splat(0x3f3504f3)), 23)
  const mantissa = i32x4.sub(x, i32x4.shl(exponent, 23))
  const one = f32x4.splat(1)
  const t = f32x4.div(f32x4.sub(mantissa, one), f32x4.add(mantissa, one))
  const t2 = f32x4.mul(t, t)
  let p = f32x4.splat(0.32059889) // 2 / (9 ln 2)
  p = f32x4.add(f32x4.mul(p, t2), f32x4.splat(0.41219858)) // 2 / (7 ln 2)
  p = f32x4.add(f32x4.mul(p, t2), f32x4.splat(0.57707802)) // 2 / (5 ln 2)
  p = f32x4.add(f32x4.mul(p, t2), f32x4.splat(0.96179669)) // 2 / (3 ln 2)
  p = f32x4.add(f32x4.mul(p, t2), f32x4.splat(2.88539008)) // 2 / ln 2
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(p, t))
}

/** 2^y for y in −126…126, clamped outside; relative error below 2e-7. Taylor series of degree 7 on ±½. */
// @ts-ignore: decorator
@inline
export function exp2x4(y: v128): v128 {
  const bounded = f32x4.max(f32x4.min(y, f32x4.splat(126)), f32x4.splat(-126))
  const whole = f32x4.nearest(bounded)
  const f = f32x4.sub(bounded, whole)
  let p = f32x4.splat(1.5252734e-5)
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1.5403530e-4))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1.3333558e-3))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(9.6181291e-3))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(5.5504109e-2))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(2.4022651e-1))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(6.9314718e-1))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1))
  return i32x4.add(p, i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 23))
}

/** sign(x) · |x|^exponent; 0 stays 0 to within 1e-30^exponent. */
// @ts-ignore: decorator
@inline
export function oddPowerx4(x: v128, exponent: v128): v128 {
  const sign = v128.and(x, i32x4.splat(i32(0x80000000)))
  const magnitude = f32x4.max(f32x4.abs(x), f32x4.splat(1e-30))
  return v128.or(sign, exp2x4(f32x4.mul(log2x4(magnitude), exponent)))
}

/**
 * Cube root, odd, relative error below 3e-7: a first guess from the exponent bits, one Halley and one Newton step.
 * Magnitudes are held above 1e-30, because denormal intermediates cost 17–34× on common processors.
 */
// @ts-ignore: decorator
@inline
export function cubeRootx4(x: v128): v128 {
  const sign = v128.and(x, i32x4.splat(i32(0x80000000)))
  const a = f32x4.max(f32x4.abs(x), f32x4.splat(1e-30))
  const third = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.convert_i32x4_s(a), f32x4.splat(0.33333334)))
  let y = i32x4.add(third, i32x4.splat(0x2a5137a0))
  let cube = f32x4.mul(f32x4.mul(y, y), y)
  const twiceA = f32x4.add(a, a)
  y = f32x4.mul(y, f32x4.div(f32x4.add(cube, twiceA), f32x4.add(f32x4.add(cube, cube), a)))
  const square = f32x4.mul(y, y)
  cube = f32x4.mul(square, y)
  y = f32x4.sub(y, f32x4.div(f32x4.sub(cube, a), f32x4.mul(square, f32x4.splat(3))))
  return v128.or(sign, y)
}
