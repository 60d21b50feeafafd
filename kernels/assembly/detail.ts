// Plane functions behind sharpening, smoothing and despeckling. Counts are multiples of 4.

// @ts-ignore: decorator
@inline
function softly(value: v128, dead: v128): v128 {
  const sign = v128.and(value, i32x4.splat(i32(0x80000000)))
  return v128.or(f32x4.pmax(f32x4.sub(f32x4.abs(value), dead), f32x4.splat(0)), sign)
}

/** target += gain · shrink(upper − lower); the shrink takes `threshold` off and leaves nothing below it. */
export function addBand(target: usize, upper: usize, lower: usize, count: i32, gain: f32, threshold: f32): void {
  const factor = f32x4.splat(gain)
  const dead = f32x4.splat(threshold)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const band = softly(f32x4.sub(v128.load(upper + i), v128.load(lower + i)), dead)
    v128.store(target + i, f32x4.add(v128.load(target + i), f32x4.mul(factor, band)))
  }
}

/** Weighted sum of three planes. `weights`: three floats. */
export function weighPlanes(r: usize, g: usize, b: usize, target: usize, count: i32, weights: usize): void {
  const x = v128.load32_splat(weights)
  const y = v128.load32_splat(weights, 4)
  const z = v128.load32_splat(weights, 8)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const sum = f32x4.add(f32x4.mul(v128.load(r + i), x), f32x4.mul(v128.load(g + i), y))
    v128.store(target + i, f32x4.add(sum, f32x4.mul(v128.load(b + i), z)))
  }
}

/** Darker than this, ratios of light mean nothing. */
// @ts-ignore: decorator
@inline
function floorOfLight(): v128 {
  return f32x4.splat(0.00002)
}

/** target = 1 + shrink(seen / expected − 1): what Richardson–Lucy feeds back, deaf to what noise alone may do. */
export function feedback(seen: usize, expected: usize, target: usize, count: i32, threshold: f32): void {
  const one = f32x4.splat(1)
  const dead = f32x4.splat(threshold)
  const lowest = floorOfLight()
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const ratio = f32x4.div(f32x4.pmax(v128.load(seen + i), lowest), f32x4.pmax(v128.load(expected + i), lowest))
    v128.store(target + i, f32x4.add(one, softly(f32x4.sub(ratio, one), dead)))
  }
}

/** target = max(a, ε) · b */
export function multiplyPlanes(a: usize, b: usize, target: usize, count: i32): void {
  const lowest = floorOfLight()
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16)
    v128.store(target + i, f32x4.mul(f32x4.pmax(v128.load(a + i), lowest), v128.load(b + i)))
}

/** Three planes of linear light times after / before, which is held between 1/`highest` and `highest`: hue and saturation stay. */
export function followLight(r: usize, g: usize, b: usize, before: usize, after: usize, count: i32, highest: f32): void {
  const ceiling = f32x4.splat(highest)
  const floor = f32x4.splat(1 / highest)
  const lowest = floorOfLight()
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const ratio = f32x4.div(f32x4.pmax(v128.load(after + i), lowest), f32x4.pmax(v128.load(before + i), lowest))
    const gain = f32x4.pmin(f32x4.pmax(ratio, floor), ceiling)
    v128.store(r + i, f32x4.mul(v128.load(r + i), gain))
    v128.store(g + i, f32x4.mul(v128.load(g + i), gain))
    v128.store(b + i, f32x4.mul(v128.load(b + i), gain))
  }
}

/** Squares of a plane. */
export function squarePlane(source: usize, target: usize, count: i32): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const value = v128.load(source + i)
    v128.store(target + i, f32x4.mul(value, value))
  }
}

/** From means and means of squares (in `a`) to the coefficients of a guided filter that guides itself (He, Sun & Tang 2010): a and b. */
export function selfGuided(mean: usize, a: usize, b: usize, count: i32, epsilon: f32): void {
  const flat = f32x4.splat(epsilon)
  const one = f32x4.splat(1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const middle = v128.load(mean + i)
    const variance = f32x4.pmax(f32x4.sub(v128.load(a + i), f32x4.mul(middle, middle)), f32x4.splat(0))
    const slope = f32x4.div(variance, f32x4.add(variance, flat))
    v128.store(a + i, slope)
    v128.store(b + i, f32x4.mul(f32x4.sub(one, slope), middle))
  }
}

/**
 * One row: a value further than `threshold` outside what all but one of its eight neighbours, `distance` away, span becomes the middle
 * of the eight; every other value stays. Lines have two neighbours of their own and are kept.
 */
export function despeckleRow(source: usize, stride: i32, target: usize, width: i32, distance: i32, threshold: f32): void {
  const margin = f32x4.splat(threshold)
  const half = f32x4.splat(0.5)
  const across: usize = <usize>distance << 2
  const down: usize = <usize>(distance * stride) << 2
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
    const at = source + i
    let a = v128.load(at - down - across)
    let b = v128.load(at - down)
    let c = v128.load(at - down + across)
    let d = v128.load(at - across)
    let e = v128.load(at + across)
    let f = v128.load(at + down - across)
    let g = v128.load(at + down)
    let h = v128.load(at + down + across)
    // Batcher's odd–even merge sort of eight (Knuth, volume 3, 5.3.4).
    let t = f32x4.pmin(a, b); b = f32x4.pmax(a, b); a = t
    t = f32x4.pmin(c, d); d = f32x4.pmax(c, d); c = t
    t = f32x4.pmin(e, f); f = f32x4.pmax(e, f); e = t
    t = f32x4.pmin(g, h); h = f32x4.pmax(g, h); g = t
    t = f32x4.pmin(a, c); c = f32x4.pmax(a, c); a = t
    t = f32x4.pmin(b, d); d = f32x4.pmax(b, d); b = t
    t = f32x4.pmin(e, g); g = f32x4.pmax(e, g); e = t
    t = f32x4.pmin(f, h); h = f32x4.pmax(f, h); f = t
    t = f32x4.pmin(b, c); c = f32x4.pmax(b, c); b = t
    t = f32x4.pmin(f, g); g = f32x4.pmax(f, g); f = t
    t = f32x4.pmin(a, e); e = f32x4.pmax(a, e); a = t
    t = f32x4.pmin(b, f); f = f32x4.pmax(b, f); b = t
    t = f32x4.pmin(c, g); g = f32x4.pmax(c, g); c = t
    t = f32x4.pmin(d, h); h = f32x4.pmax(d, h); d = t
    t = f32x4.pmin(c, e); e = f32x4.pmax(c, e); c = t
    t = f32x4.pmin(d, f); f = f32x4.pmax(d, f); d = t
    t = f32x4.pmin(b, c); c = f32x4.pmax(b, c); b = t
    t = f32x4.pmin(d, e); e = f32x4.pmax(d, e); d = t
    t = f32x4.pmin(f, g); g = f32x4.pmax(f, g); f = t
    const value = v128.load(at)
    const outside = v128.or(f32x4.gt(value, f32x4.add(g, margin)), f32x4.lt(value, f32x4.sub(b, margin)))
    v128.store(target + i, v128.bitselect(f32x4.mul(f32x4.add(d, e), half), value, outside))
  }
}
