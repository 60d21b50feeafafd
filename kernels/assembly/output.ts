// From linear light to the encoded values of a delivery's colour space.
import { cubeRootx4, oddPowerx4, signOf } from './math'
import { toEncoded, toLinear } from './transfer'

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

/**
 * 0: what rounds to an end of the scale anyway needs no mapping, 1: 1 + that, 2: 0, 3: 1, 4: ½, 5: α of the search's grey, 6: 3, 7: a trial no farther inside than this is taken: an eighth of an 8-bit code, 8: −slack, 9, 10: 8 and 1 encoded,
 * 11: what keeps 0 / 0 away
 */
const gamutTable = memory.data<f32>([0.0002, 1.0002, 0.0, 1.0, 0.5, 0.05, 3.0, -0.0005, -0.0002, -0.002584, 1.000088, 1e-9])

// @ts-ignore: decorator
@inline
function n(index: usize): v128 {
  return v128.load32_splat(gamutTable + (index << 2))
}

/** How far the worst channel lies beyond 0 … 1, less what needs no mapping; 0 and less is inside. */
// @ts-ignore: decorator
@inline
function excessOf(r: v128, g: v128, b: v128): v128 {
  const lowest = f32x4.pmin(f32x4.pmin(r, g), b)
  const highest = f32x4.pmax(f32x4.pmax(r, g), b)
  return f32x4.sub(f32x4.pmax(f32x4.sub(n(2), lowest), f32x4.sub(highest, n(3))), n(0))
}

/** Steps of the search. After these the worst of a million wild colours lies 0.006 inside the border, most far closer. */
const searchSteps: i32 = 8

/**
 * Colours that are to be searched for, so many at a time: each stage of the search goes over all of them, so that what one waits for is
 * filled by the next. All that is known of them lies in planes, so many bytes apart.
 */
const most: i32 = 64
const plane: usize = 256

/** Red, green and blue; and where in their planes they come from. */
const pending = memory.data(768, 16)
const pendingAt = memory.data(256, 16)

/** The roots of the cones; then how OKLab's lightness, a and b change along the way from grey. */
const ways = memory.data(768, 16)
/** The lightness of that grey, then its light. */
const greys = memory.data(256, 16)

/** What red, green and blue are along the way from grey: factors of t, t² and t³, a channel behind the other. */
const curves = memory.data(2304, 16)
const greenCurve = curves + 3 * plane
const blueCurve = curves + 6 * plane

/** The value at `t` of a curve of the third order that begins at `start`. */
// @ts-ignore: decorator
@inline
function along(t: v128, start: v128, curve: usize): v128 {
  const high = f32x4.add(f32x4.mul(v128.load(curve, 2 * plane), t), v128.load(curve, plane))
  return f32x4.add(f32x4.mul(f32x4.add(f32x4.mul(high, t), v128.load(curve)), t), start)
}

/** One step of Newton's, held to 0 … 1. */
// @ts-ignore: decorator
@inline
function nearer(t: v128, bound: v128, start: v128, curve: usize): v128 {
  const cubic = f32x4.mul(v128.load(curve, 2 * plane), t)
  const square = f32x4.add(cubic, v128.load(curve, plane))
  const slope = f32x4.add(f32x4.mul(f32x4.add(f32x4.add(square, square), cubic), t), v128.load(curve))
  const beyond = f32x4.sub(along(t, start, curve), bound)
  return f32x4.pmin(n(3), f32x4.pmax(n(2), f32x4.sub(t, f32x4.div(beyond, slope))))
}

/** Where a channel that ends outside 0 … 1 leaves it, nearly; 1 for those that end inside. */
// @ts-ignore: decorator
@inline
function leavingAt(end: v128, start: v128, curve: usize): v128 {
  const above = f32x4.gt(end, n(3))
  if (!v128.any_true(v128.or(above, f32x4.lt(end, n(2))))) return n(3)
  const bound = v128.and(above, n(3))
  const chord = f32x4.div(f32x4.sub(bound, start), f32x4.sub(end, start))
  const t = nearer(nearer(chord, bound, start, curve), bound, start, curve)
  return v128.bitselect(t, n(3), v128.or(above, f32x4.lt(end, n(2))))
}

/** A power of the cones' slopes, times `factor`, into that power's place of each channel's curve. */
// @ts-ignore: decorator
@inline
function layPower(parameters: usize, at: usize, factor: v128, a: v128, c: v128, f: v128): void {
  v128.store(curves + at, f32x4.mul(factor, row(parameters, 27, a, c, f)))
  v128.store(greenCurve + at, f32x4.mul(factor, row(parameters, 30, a, c, f)))
  v128.store(blueCurve + at, f32x4.mul(factor, row(parameters, 33, a, c, f)))
}

// @ts-ignore: decorator
@inline
function findRoots(i: usize, parameters: usize): void {
  const red = v128.load(pending + i)
  const green = v128.load(pending + i, plane)
  const blue = v128.load(pending + i, 2 * plane)
  v128.store(ways + i, cubeRootx4(row(parameters, 0, red, green, blue)))
  v128.store(ways + i, cubeRootx4(row(parameters, 3, red, green, blue)), plane)
  v128.store(ways + i, cubeRootx4(row(parameters, 6, red, green, blue)), 2 * plane)
}

// @ts-ignore: decorator
@inline
function findGrey(i: usize, parameters: usize): void {
  const p = v128.load(ways + i)
  const q = v128.load(ways + i, plane)
  const s = v128.load(ways + i, 2 * plane)
  const light = row(parameters, 9, p, q, s)
  const u = row(parameters, 12, p, q, s)
  const v = row(parameters, 15, p, q, s)
  const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)))
  // L0 = ½(1 + sign(d)(e − √(e² − 2|d|))), d = L − ½, e = ½ + |d| + αC
  const d = f32x4.sub(light, n(4))
  const size = f32x4.abs(d)
  const e = f32x4.add(f32x4.add(n(4), size), f32x4.mul(n(5), chroma))
  const root = f32x4.sqrt(f32x4.pmax(f32x4.sub(f32x4.mul(e, e), f32x4.add(size, size)), n(2)))
  const grey = f32x4.mul(n(4), f32x4.add(n(3), v128.or(f32x4.sub(e, root), signOf(d))))
  v128.store(greys + i, grey)
  v128.store(ways + i, f32x4.sub(light, grey))
  v128.store(ways + i, u, plane)
  v128.store(ways + i, v, 2 * plane)
}

/** (grey + t·slope)³ of each cone, and by powers of t what they make of the channels. */
// @ts-ignore: decorator
@inline
function layCurves(i: usize, parameters: usize): void {
  const grey = v128.load(greys + i)
  const rise = v128.load(ways + i)
  const u = v128.load(ways + i, plane)
  const v = v128.load(ways + i, 2 * plane)
  const a = row(parameters, 18, rise, u, v)
  const c = row(parameters, 21, rise, u, v)
  const f = row(parameters, 24, rise, u, v)
  const thrice = f32x4.mul(n(6), grey)
  v128.store(greys + i, cube(grey))
  layPower(parameters, i, f32x4.mul(thrice, grey), a, c, f)
  const aa = f32x4.mul(a, a)
  const cc = f32x4.mul(c, c)
  const ff = f32x4.mul(f, f)
  layPower(parameters, i + plane, thrice, aa, cc, ff)
  layPower(parameters, i + 2 * plane, n(3), f32x4.mul(aa, a), f32x4.mul(cc, c), f32x4.mul(ff, f))
}

/** Where the first channel leaves the space, by Newton's method. */
// @ts-ignore: decorator
@inline
function leave(i: usize): void {
  const middle = v128.load(greys + i)
  const first = f32x4.pmin(leavingAt(v128.load(pending + i), middle, curves + i), leavingAt(v128.load(pending + i, plane), middle, greenCurve + i))
  const t = f32x4.pmin(first, leavingAt(v128.load(pending + i, 2 * plane), middle, blueCurve + i))
  const red = along(t, middle, curves + i)
  const green = along(t, middle, greenCurve + i)
  const blue = along(t, middle, blueCurve + i)
  const excess = excessOf(red, green, blue)
  const settled = v128.and(f32x4.le(excess, n(2)), f32x4.gt(excess, n(7)))
  if (v128.all_true<i32>(settled)) {
    v128.store(pending + i, red)
    v128.store(pending + i, green, plane)
    v128.store(pending + i, blue, 2 * plane)
  } else approach(i, red, green, blue, settled)
}

/** False position (Illinois) on how far the worst channel lies beyond its end; the best colour inside is kept. */
function approach(i: usize, red: v128, green: v128, blue: v128, known: v128): void {
  const middle = v128.load(greys + i)
  let settled = known
  let outR = v128.bitselect(red, middle, settled)
  let outG = v128.bitselect(green, middle, settled)
  let outB = v128.bitselect(blue, middle, settled)
  let near = n(2)
  let nearExcess = f32x4.sub(f32x4.pmax(f32x4.sub(n(2), middle), f32x4.sub(middle, n(3))), n(0))
  let far = n(3)
  let farExcess = excessOf(v128.load(pending + i), v128.load(pending + i, plane), v128.load(pending + i, 2 * plane))
  for (let step = 0; step < searchSteps && !v128.all_true<i32>(settled); step++) {
    const span = f32x4.sub(farExcess, nearExcess)
    const t = f32x4.sub(near, f32x4.div(f32x4.mul(nearExcess, f32x4.sub(far, near)), f32x4.pmax(span, n(11))))
    const tryR = along(t, middle, curves + i)
    const tryG = along(t, middle, greenCurve + i)
    const tryB = along(t, middle, blueCurve + i)
    const excess = excessOf(tryR, tryG, tryB)
    const isInside = v128.andnot(f32x4.le(excess, n(2)), settled)
    outR = v128.bitselect(tryR, outR, isInside)
    outG = v128.bitselect(tryG, outG, isInside)
    outB = v128.bitselect(tryB, outB, isInside)
    // A settled lane stays: what it becomes does not depend on its neighbours.
    settled = v128.or(settled, v128.and(isInside, f32x4.gt(excess, n(7))))
    near = v128.bitselect(t, near, isInside)
    nearExcess = v128.bitselect(excess, f32x4.mul(nearExcess, n(4)), isInside)
    far = v128.bitselect(far, t, isInside)
    farExcess = v128.bitselect(f32x4.mul(farExcess, n(4)), excess, isInside)
  }
  v128.store(pending + i, outR)
  v128.store(pending + i, outG, plane)
  v128.store(pending + i, outB, 2 * plane)
}

/**
 * The pending colours, pulled in along their OKLab hue, towards a grey whose lightness follows from lightness and chroma (Ottosson
 * 2021, "adaptive L0, hue dependent off", α = 0.05). Along that line the roots of the cones are straight, so that each channel is a
 * curve of the third order; where the first of them leaves the space is found by Newton's method, or else by false position.
 */
function searchPending(count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  for (let i: usize = 0; i < end; i += 16) findRoots(i, parameters)
  for (let i: usize = 0; i < end; i += 16) findGrey(i, parameters)
  for (let i: usize = 0; i < end; i += 16) layCurves(i, parameters)
  for (let i: usize = 0; i < end; i += 16) leave(i)
}

/** Searches, and puts the first `count` of the pending colours back where they come from. */
function settlePending(r: usize, g: usize, b: usize, count: i32, isEncoded: bool, parameters: usize): void {
  const whole = (count + 3) & ~3
  if (isEncoded) toLinear(pending, pending + plane, pending + 2 * plane, whole, 0)
  searchPending(count, parameters)
  if (isEncoded) toEncoded(pending, pending + plane, pending + 2 * plane, whole, 0)
  for (let lane: usize = 0, end: usize = <usize>count << 2; lane < end; lane += 4) {
    const at: usize = load<u32>(pendingAt + lane)
    f32.store(r + at, f32.load(pending + lane))
    f32.store(g + at, f32.load(pending + lane, plane))
    f32.store(b + at, f32.load(pending + lane, 2 * plane))
  }
}

/** Those outside are collected, and searched for together. */
// @ts-ignore: decorator
@inline
function mapOutside(r: usize, g: usize, b: usize, count: i32, isEncoded: bool, parameters: usize): void {
  const low = n(isEncoded ? 9 : 8)
  const high = n(isEncoded ? 10 : 1)
  let waiting = 0
  for (let i: usize = 0, last: usize = <usize>count << 2; i < last; i += 16) {
    const red = v128.load(r + i)
    const green = v128.load(g + i)
    const blue = v128.load(b + i)
    const lowest = f32x4.pmin(f32x4.pmin(red, green), blue)
    const highest = f32x4.pmax(f32x4.pmax(red, green), blue)
    const beyond = v128.or(f32x4.lt(lowest, low), f32x4.gt(highest, high))
    if (!v128.any_true(beyond)) continue
    // Brighter than white or darker than black in every channel: white and black, without a search.
    const white = f32x4.ge(lowest, n(3))
    const whole = v128.or(white, f32x4.le(highest, n(2)))
    const end = v128.and(white, n(3))
    v128.store(r + i, v128.bitselect(end, red, whole))
    v128.store(g + i, v128.bitselect(end, green, whole))
    v128.store(b + i, v128.bitselect(end, blue, whole))
    let lanes = i32x4.bitmask(v128.andnot(beyond, whole))
    while (lanes) {
      const at = i + (<usize>ctz(lanes) << 2)
      lanes &= lanes - 1
      const to = pending + (<usize>waiting << 2)
      f32.store(to, f32.load(r + at))
      f32.store(to, f32.load(g + at), plane)
      f32.store(to, f32.load(b + at), 2 * plane)
      store<u32>(pendingAt + (<usize>waiting << 2), <u32>at)
      if (++waiting == most) {
        settlePending(r, g, b, most, isEncoded, parameters)
        waiting = 0
      }
    }
  }
  if (waiting) settlePending(r, g, b, waiting, isEncoded, parameters)
}

/**
 * Linear RGB of a delivery's space: colours outside 0 … 1 are pulled in along their hue; those inside stay as they are.
 * parameters: four 3×3 matrices: RGB → cone, cone^⅓ → Lab, Lab → cone^⅓, cone → RGB.
 */
export function mapGamut(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  mapOutside(r, g, b, count, false, parameters)
}

/** The same of encoded sRGB. */
export function mapGamutEncoded(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  mapOutside(r, g, b, count, true, parameters)
}

/** Planes of encoded values → interleaved 16-bit RGB, rounded. Not a number becomes 0. Whole vectors are written: up to 18 bytes behind a row. */
export function encodeRow16(r: usize, g: usize, b: usize, width: i32, target: usize): void {
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
    const redGreen = v128.or(code16(v128.load(r + i)), i32x4.shl(code16(v128.load(g + i)), 16))
    const blue = code16(v128.load(b + i))
    v128.store(target, v128.shuffle<u8>(redGreen, blue, 0, 1, 2, 3, 16, 17, 4, 5, 6, 7, 20, 21, 8, 9, 10, 11))
    v128.store64_lane(target, v128.shuffle<u8>(redGreen, blue, 24, 25, 12, 13, 14, 15, 28, 29, 0, 0, 0, 0, 0, 0, 0, 0), 0, 16)
    target += 24
  }
}

/** The nearest codes of 0–65535; the order of pmax and pmin sends not-a-number to 0. */
// @ts-ignore: decorator
@inline
function code16(value: v128): v128 {
  const held = f32x4.pmin(f32x4.pmax(f32x4.splat(0), value), f32x4.splat(1))
  return i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(held, f32x4.splat(65535)), f32x4.splat(0.5)))
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
