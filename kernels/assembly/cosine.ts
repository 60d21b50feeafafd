// The 8-point cosine transform of four lanes, there and back.
import { putTurned } from './turned'

/** √½, sin of π/8, √2·sin and √2·cos of π/8; then √2, 2·cos of π/8, 1/cos of π/8 and 1/sin of π/8 */
const table = memory.data<f32>([0.70710678, 0.38268343, 0.54119610, 1.30656296, 1.41421356, 1.84775907, 1.08239220, 2.61312593])

// @ts-ignore: decorator
@inline
function times(index: usize, value: v128): v128 {
  return f32x4.mul(v128.load32_splat(table + (index << 2)), value)
}

/**
 * By how much `forward` makes each frequency larger than the orthonormal transform, in √8: 1, then √2·cos(kπ/16). What it makes larger,
 * `backward` makes smaller.
 */
const scales = memory.data<f32>([1, 1.38703985, 1.30656296, 1.17587560, 1, 0.78569496, 0.54119610, 0.27589938])

// @ts-ignore: decorator
@inline
export function scaleOf(frequency: i32): f32 {
  return f32.load(scales + (<usize>frequency << 2))
}

/** Where eight vectors go: `step` bytes apart; or, each times its own of eight weights, on top of what is there; or, their corners turned, four rows of eight. */
export const enum Lay {
  plain,
  added,
  turned,
}

// @ts-ignore: decorator
@inline
function put(to: usize, value: v128, weight: usize, lay: Lay): void {
  v128.store(to, lay == Lay.added ? f32x4.add(v128.load(to), f32x4.mul(value, v128.load32_splat(weight))) : value)
}

/**
 * 8-point DCT-II of four lanes, scaled (Arai, Agui & Nakajima 1988): vectors `step` bytes apart in, the first four from one place, the
 * others from another; 16 bytes apart out, or turned: lanes `toStep` bytes apart, the lower four frequencies there, the upper four at `far`.
 */
// @ts-ignore: decorator
@inline
export function forward(from: usize, behind: usize, step: usize, to: usize, lay: Lay = Lay.plain, toStep: usize = 16, far: usize = 0): void {
  const x0 = v128.load(from)
  const x7 = v128.load(behind + 3 * step)
  const x3 = v128.load(from + 3 * step)
  const x4 = v128.load(behind)
  const a0 = f32x4.add(x0, x7)
  const d0 = f32x4.sub(x0, x7)
  const a3 = f32x4.add(x3, x4)
  const d3 = f32x4.sub(x3, x4)
  const x1 = v128.load(from + step)
  const x6 = v128.load(behind + 2 * step)
  const x2 = v128.load(from + 2 * step)
  const x5 = v128.load(behind + step)
  const a1 = f32x4.add(x1, x6)
  const d1 = f32x4.sub(x1, x6)
  const a2 = f32x4.add(x2, x5)
  const d2 = f32x4.sub(x2, x5)
  const b0 = f32x4.add(a0, a3)
  const b1 = f32x4.add(a1, a2)
  const b3 = f32x4.sub(a0, a3)
  const c = times(0, f32x4.add(f32x4.sub(a1, a2), b3))
  const e0 = f32x4.add(d3, d2)
  const e1 = times(0, f32x4.add(d2, d1))
  const e2 = f32x4.add(d1, d0)
  const skew = times(1, f32x4.sub(e0, e2))
  const p = f32x4.add(times(2, e0), skew)
  const q = f32x4.add(times(3, e2), skew)
  const r = f32x4.add(d0, e1)
  const s = f32x4.sub(d0, e1)
  if (lay == Lay.turned) {
    putTurned(to, toStep, f32x4.add(b0, b1), f32x4.add(r, q), f32x4.add(b3, c), f32x4.sub(s, p))
    putTurned(far, toStep, f32x4.sub(b0, b1), f32x4.add(s, p), f32x4.sub(b3, c), f32x4.sub(r, q))
    return
  }
  v128.store(to, f32x4.add(b0, b1))
  v128.store(to, f32x4.add(r, q), 16)
  v128.store(to, f32x4.add(b3, c), 32)
  v128.store(to, f32x4.sub(s, p), 48)
  v128.store(to, f32x4.sub(b0, b1), 64)
  v128.store(to, f32x4.add(s, p), 80)
  v128.store(to, f32x4.sub(b3, c), 96)
  v128.store(to, f32x4.sub(r, q), 112)
}

/** The inverse of `forward`, but for a factor of 8; added: times `weights`, one a vector; turned: lanes `step` bytes apart, the first four vectors there, the others at `far`. */
// @ts-ignore: decorator
@inline
export function backward(from: usize, to: usize, step: usize, lay: Lay = Lay.plain, weights: usize = 0, far: usize = 0): void {
  const v0 = v128.load(from)
  const v4 = v128.load(from, 64)
  const v2 = v128.load(from, 32)
  const v6 = v128.load(from, 96)
  const b0 = f32x4.add(v0, v4)
  const b1 = f32x4.sub(v0, v4)
  const b3 = f32x4.add(v2, v6)
  const b2 = f32x4.sub(times(4, f32x4.sub(v2, v6)), b3)
  const a0 = f32x4.add(b0, b3)
  const a3 = f32x4.sub(b0, b3)
  const a1 = f32x4.add(b1, b2)
  const a2 = f32x4.sub(b1, b2)
  const v1 = v128.load(from, 16)
  const v7 = v128.load(from, 112)
  const v3 = v128.load(from, 48)
  const v5 = v128.load(from, 80)
  const e0 = f32x4.add(v5, v3)
  const e1 = f32x4.sub(v5, v3)
  const e2 = f32x4.add(v1, v7)
  const e3 = f32x4.sub(v1, v7)
  const d0 = f32x4.add(e2, e0)
  const skew = times(5, f32x4.add(e1, e3))
  const d1 = f32x4.sub(f32x4.sub(skew, times(7, e1)), d0)
  const d2 = f32x4.sub(times(4, f32x4.sub(e2, e0)), d1)
  const d3 = f32x4.sub(f32x4.sub(skew, times(6, e3)), d2)
  if (lay == Lay.turned) {
    putTurned(to, step, f32x4.add(a0, d0), f32x4.add(a1, d1), f32x4.add(a2, d2), f32x4.add(a3, d3))
    putTurned(far, step, f32x4.sub(a3, d3), f32x4.sub(a2, d2), f32x4.sub(a1, d1), f32x4.sub(a0, d0))
    return
  }
  put(to, f32x4.add(a0, d0), weights, lay)
  put(to + 7 * step, f32x4.sub(a0, d0), weights + 28, lay)
  put(to + step, f32x4.add(a1, d1), weights + 4, lay)
  put(to + 6 * step, f32x4.sub(a1, d1), weights + 24, lay)
  put(to + 2 * step, f32x4.add(a2, d2), weights + 8, lay)
  put(to + 5 * step, f32x4.sub(a2, d2), weights + 20, lay)
  put(to + 3 * step, f32x4.add(a3, d3), weights + 12, lay)
  put(to + 4 * step, f32x4.sub(a3, d3), weights + 16, lay)
}

/** Corners at `from`, to where they lie turned. */
// @ts-ignore: decorator
@inline
export function turn(from: usize, fromStep: usize, to: usize, toStep: usize): void {
  putTurned(to, toStep, v128.load(from), v128.load(from + fromStep), v128.load(from + 2 * fromStep), v128.load(from + 3 * fromStep))
}
