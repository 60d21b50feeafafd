// From linear light to the encoded values of a delivery's colour space.
import { cubeRootx4, oddPowerx4, signOf } from './math'

/** parameters: cut, slope, gain, exponent, offset. sign(x) · (|x| < cut ? slope·|x| : gain·|x|^exponent − offset) */
export function encodePower(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const cut = v128.load32_splat(parameters)
  const slope = v128.load32_splat(parameters, 4)
  const gain = v128.load32_splat(parameters, 8)
  const exponent = v128.load32_splat(parameters, 12)
  const offset = v128.load32_splat(parameters, 16)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(r + i, power(v128.load(r + i), cut, slope, gain, exponent, offset))
    v128.store(g + i, power(v128.load(g + i), cut, slope, gain, exponent, offset))
    v128.store(b + i, power(v128.load(b + i), cut, slope, gain, exponent, offset))
  }
}

// @ts-ignore: decorator
@inline
function power(x: v128, cut: v128, slope: v128, gain: v128, exponent: v128, offset: v128): v128 {
  const magnitude = f32x4.abs(x)
  const curved = f32x4.sub(f32x4.mul(gain, oddPowerx4(magnitude, exponent)), offset)
  const straight = f32x4.mul(slope, magnitude)
  return v128.or(v128.bitselect(straight, curved, f32x4.lt(magnitude, cut)), signOf(x))
}

// @ts-ignore: decorator
@inline
function row(m: usize, at: usize, x: v128, y: v128, z: v128): v128 {
  const p = m + (at << 2)
  const sum = f32x4.add(f32x4.mul(v128.load32_splat(p), x), f32x4.mul(v128.load32_splat(p, 4), y))
  return f32x4.add(sum, f32x4.mul(v128.load32_splat(p, 8), z))
}

// @ts-ignore: decorator
@inline
function cube(x: v128): v128 {
  return f32x4.mul(f32x4.mul(x, x), x)
}

/** What rounds to an end of the scale anyway needs no mapping. */
const slack: f32 = 0.0002

// @ts-ignore: decorator
@inline
function isOutside(r: v128, g: v128, b: v128): v128 {
  const low = f32x4.splat(-slack)
  const high = f32x4.splat(1 + slack)
  const least = f32x4.pmin(f32x4.pmin(r, g), b)
  const most = f32x4.pmax(f32x4.pmax(r, g), b)
  return v128.or(f32x4.lt(least, low), f32x4.gt(most, high))
}

/** How far the worst channel lies beyond 0 … 1, less what needs no mapping; 0 and less is inside. */
// @ts-ignore: decorator
@inline
function excessOf(r: v128, g: v128, b: v128): v128 {
  const least = f32x4.pmin(f32x4.pmin(r, g), b)
  const most = f32x4.pmax(f32x4.pmax(r, g), b)
  return f32x4.sub(f32x4.pmax(f32x4.sub(f32x4.splat(0), least), f32x4.sub(most, f32x4.splat(1))), f32x4.splat(slack))
}

/** A trial no farther inside than this is taken: an eighth of an 8-bit code. */
const closeEnough: f32 = 0.0005
/** After so many trials the worst of a million wild colours lies 0.006 inside the border, most far closer. */
const searchSteps: i32 = 8

/**
 * Linear RGB of a delivery's space: colours outside 0 … 1 are pulled in along their OKLab hue, towards a grey whose lightness follows
 * from lightness and chroma (Ottosson 2021, "adaptive L0, hue dependent off", α = 0.05), by false position. Lanes inside stay as they are.
 * parameters: four 3×3 matrices: RGB → cone, cone^⅓ → Lab, Lab → cone^⅓, cone → RGB.
 */
export function mapGamut(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  const half = f32x4.splat(0.5)
  for (let i: usize = 0, last: usize = <usize>count << 2; i < last; i += 16) {
    const red = v128.load(r + i)
    const green = v128.load(g + i)
    const blue = v128.load(b + i)
    const beyondReach = isOutside(red, green, blue)
    if (!v128.any_true(beyondReach)) continue
    // Brighter than white or darker than black in every channel: white and black, without a search.
    const white = f32x4.ge(f32x4.pmin(f32x4.pmin(red, green), blue), one)
    const black = f32x4.le(f32x4.pmax(f32x4.pmax(red, green), blue), zero)
    const whole = v128.or(white, black)
    const end = v128.and(white, one)
    const outside = v128.andnot(beyondReach, whole)
    v128.store(r + i, v128.bitselect(end, red, whole))
    v128.store(g + i, v128.bitselect(end, green, whole))
    v128.store(b + i, v128.bitselect(end, blue, whole))
    if (!v128.any_true(outside)) continue
    const p = cubeRootx4(row(parameters, 0, red, green, blue))
    const q = cubeRootx4(row(parameters, 3, red, green, blue))
    const s = cubeRootx4(row(parameters, 6, red, green, blue))
    const light = row(parameters, 9, p, q, s)
    const u = row(parameters, 12, p, q, s)
    const v = row(parameters, 15, p, q, s)
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)))
    // L0 = ½(1 + sign(d)(e − √(e² − 2|d|))), d = L − ½, e = ½ + |d| + αC
    const d = f32x4.sub(light, half)
    const size = f32x4.abs(d)
    const e = f32x4.add(f32x4.add(half, size), f32x4.mul(f32x4.splat(0.05), chroma))
    const root = f32x4.sqrt(f32x4.pmax(f32x4.sub(f32x4.mul(e, e), f32x4.add(size, size)), zero))
    const grey = f32x4.mul(half, f32x4.add(one, v128.or(f32x4.sub(e, root), signOf(d))))
    const rise = f32x4.sub(light, grey)
    // False position (Illinois) on how far the worst channel lies beyond its end; the best colour inside is kept.
    const middle = cube(grey)
    let outR = middle
    let outG = middle
    let outB = middle
    let near = zero
    let nearExcess = f32x4.sub(f32x4.pmax(f32x4.sub(zero, middle), f32x4.sub(middle, one)), f32x4.splat(slack))
    let far = one
    let farExcess = excessOf(red, green, blue)
    let settled = v128.not(outside)
    for (let step = 0; step < searchSteps && !v128.all_true<i32>(settled); step++) {
      const span = f32x4.sub(farExcess, nearExcess)
      const t = f32x4.sub(near, f32x4.div(f32x4.mul(nearExcess, f32x4.sub(far, near)), f32x4.pmax(span, f32x4.splat(1e-9))))
      const l = f32x4.add(grey, f32x4.mul(t, rise))
      const x = f32x4.mul(t, u)
      const y = f32x4.mul(t, v)
      const a = cube(row(parameters, 18, l, x, y))
      const c = cube(row(parameters, 21, l, x, y))
      const f = cube(row(parameters, 24, l, x, y))
      const tryR = row(parameters, 27, a, c, f)
      const tryG = row(parameters, 30, a, c, f)
      const tryB = row(parameters, 33, a, c, f)
      const excess = excessOf(tryR, tryG, tryB)
      const isInside = v128.andnot(f32x4.le(excess, zero), settled)
      outR = v128.bitselect(tryR, outR, isInside)
      outG = v128.bitselect(tryG, outG, isInside)
      outB = v128.bitselect(tryB, outB, isInside)
      // A settled lane stays: what it becomes does not depend on its neighbours.
      settled = v128.or(settled, v128.and(isInside, f32x4.gt(excess, f32x4.splat(-closeEnough))))
      near = v128.bitselect(t, near, isInside)
      nearExcess = v128.bitselect(excess, f32x4.mul(nearExcess, half), isInside)
      far = v128.bitselect(far, t, isInside)
      farExcess = v128.bitselect(f32x4.mul(farExcess, half), excess, isInside)
    }
    v128.store(r + i, v128.bitselect(outR, v128.load(r + i), outside))
    v128.store(g + i, v128.bitselect(outG, v128.load(g + i), outside))
    v128.store(b + i, v128.bitselect(outB, v128.load(b + i), outside))
  }
}

/** Planes of encoded values → interleaved 16-bit RGB, rounded. Not a number becomes 0. */
export function encodeRow16(r: usize, g: usize, b: usize, width: i32, target: usize): void {
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 4) {
    store<u16>(target, code16(f32.load(r + i)))
    store<u16>(target, code16(f32.load(g + i)), 2)
    store<u16>(target, code16(f32.load(b + i)), 4)
    target += 6
  }
}

// @ts-ignore: decorator
@inline
function code16(value: f32): u16 {
  return <u16>(value > 0 ? (value < 1 ? value * 65535 + 0.5 : 65535) : 0)
}

/** Three planes held between two values. parameters: lowest, highest. */
export function holdRange(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const low = v128.load32_splat(parameters)
  const high = v128.load32_splat(parameters, 4)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(r + i, f32x4.pmin(f32x4.pmax(v128.load(r + i), low), high))
    v128.store(g + i, f32x4.pmin(f32x4.pmax(v128.load(g + i), low), high))
    v128.store(b + i, f32x4.pmin(f32x4.pmax(v128.load(b + i), low), high))
  }
}

// @ts-ignore: decorator
@inline
function quantised(x: v128, steps: v128, perStep: v128): v128 {
  const held = f32x4.pmin(f32x4.pmax(x, f32x4.splat(0)), f32x4.splat(1))
  return f32x4.mul(f32x4.floor(f32x4.add(f32x4.mul(held, steps), f32x4.splat(0.5))), perStep)
}

/** Values 0 … 1 rounded to one of `steps` + 1 levels. parameters: steps. */
export function quantise(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const steps = v128.load32_splat(parameters)
  const perStep = f32x4.splat(1 / f32.load(parameters))
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(r + i, quantised(v128.load(r + i), steps, perStep))
    v128.store(g + i, quantised(v128.load(g + i), steps, perStep))
    v128.store(b + i, quantised(v128.load(b + i), steps, perStep))
  }
}
