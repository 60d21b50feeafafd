// The 8-point cosine transform of four lanes, there and back, and the turning of 4 × 4 corners.

/** √2·sin(π/8), √2·cos(π/8), sin and cos of 3π/16 and of π/16, √2 */
const table = memory.data<f32>([0.54119610, 1.30656296, 0.55557023, 0.83146961, 0.19509032, 0.98078528, 1.41421356])

// @ts-ignore: decorator
@inline
function c(index: usize): v128 {
  return v128.load32_splat(table + (index << 2))
}

/** a·x + b·y */
// @ts-ignore: decorator
@inline
function sum2(a: v128, x: v128, b: v128, y: v128): v128 {
  return f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y))
}

/** a·x − b·y */
// @ts-ignore: decorator
@inline
function difference2(a: v128, x: v128, b: v128, y: v128): v128 {
  return f32x4.sub(f32x4.mul(a, x), f32x4.mul(b, y))
}

/**
 * 8-point DCT-II of four lanes (Loeffler, Ligtenberg & Moschytz 1989), √8 times the orthonormal one: vectors `step` bytes apart in,
 * 16·`spread` bytes apart out.
 */
// @ts-ignore: decorator
@inline
export function forward(from: usize, step: usize, to: usize): void {
  const x0 = v128.load(from)
  const x7 = v128.load(from + 7 * step)
  const x3 = v128.load(from + 3 * step)
  const x4 = v128.load(from + 4 * step)
  const a0 = f32x4.add(x0, x7)
  const d0 = f32x4.sub(x0, x7)
  const a3 = f32x4.add(x3, x4)
  const d3 = f32x4.sub(x3, x4)
  const x1 = v128.load(from + step)
  const x6 = v128.load(from + 6 * step)
  const x2 = v128.load(from + 2 * step)
  const x5 = v128.load(from + 5 * step)
  const a1 = f32x4.add(x1, x6)
  const d1 = f32x4.sub(x1, x6)
  const a2 = f32x4.add(x2, x5)
  const d2 = f32x4.sub(x2, x5)
  const b0 = f32x4.add(a0, a3)
  const b1 = f32x4.add(a1, a2)
  v128.store(to, f32x4.add(b0, b1))
  v128.store(to, f32x4.sub(b0, b1), 64)
  const b2 = f32x4.sub(a1, a2)
  const b3 = f32x4.sub(a0, a3)
  v128.store(to, sum2(c(0), b2, c(1), b3), 32)
  v128.store(to, difference2(c(0), b3, c(1), b2), 96)
  const p = sum2(c(3), d3, c(2), d0)
  const s = difference2(c(3), d0, c(2), d3)
  const q = sum2(c(5), d2, c(4), d1)
  const r = difference2(c(5), d1, c(4), d2)
  const sum = f32x4.add(s, q)
  const other = f32x4.add(p, r)
  v128.store(to, f32x4.add(sum, other), 16)
  v128.store(to, f32x4.sub(sum, other), 112)
  v128.store(to, f32x4.mul(c(6), f32x4.sub(s, q)), 48)
  v128.store(to, f32x4.mul(c(6), f32x4.sub(p, r)), 80)
}

// @ts-ignore: decorator
@inline
function put(to: usize, value: v128, weight: v128, adds: bool): void {
  v128.store(to, adds ? f32x4.add(v128.load(to), f32x4.mul(value, weight)) : value)
}

/**
 * The transpose of `forward`, which is its inverse but for a factor of 8, to vectors `step` bytes apart; or, if it `adds`, times `weight`
 * on top of what is there.
 */
// @ts-ignore: decorator
@inline
export function backward(from: usize, to: usize, step: usize, weight: v128, adds: bool): void {
  const v0 = v128.load(from)
  const v4 = v128.load(from, 64)
  const v2 = v128.load(from, 32)
  const v6 = v128.load(from, 96)
  const b0 = f32x4.add(v0, v4)
  const b1 = f32x4.sub(v0, v4)
  const b2 = difference2(c(0), v2, c(1), v6)
  const b3 = sum2(c(1), v2, c(0), v6)
  const a0 = f32x4.add(b0, b3)
  const a3 = f32x4.sub(b0, b3)
  const a1 = f32x4.add(b1, b2)
  const a2 = f32x4.sub(b1, b2)
  const v1 = v128.load(from, 16)
  const v7 = v128.load(from, 112)
  const v3 = f32x4.mul(c(6), v128.load(from, 48))
  const v5 = f32x4.mul(c(6), v128.load(from, 80))
  const sum = f32x4.add(v1, v7)
  const other = f32x4.sub(v1, v7)
  const p = f32x4.add(other, v5)
  const r = f32x4.sub(other, v5)
  const s = f32x4.add(sum, v3)
  const q = f32x4.sub(sum, v3)
  const d0 = sum2(c(2), p, c(3), s)
  const d3 = difference2(c(3), p, c(2), s)
  put(to, f32x4.add(a0, d0), weight, adds)
  put(to + 7 * step, f32x4.sub(a0, d0), weight, adds)
  put(to + 3 * step, f32x4.add(a3, d3), weight, adds)
  put(to + 4 * step, f32x4.sub(a3, d3), weight, adds)
  const d1 = sum2(c(4), q, c(5), r)
  const d2 = difference2(c(5), q, c(4), r)
  put(to + step, f32x4.add(a1, d1), weight, adds)
  put(to + 6 * step, f32x4.sub(a1, d1), weight, adds)
  put(to + 2 * step, f32x4.add(a2, d2), weight, adds)
  put(to + 5 * step, f32x4.sub(a2, d2), weight, adds)
}

/** A 4 × 4 corner, rows and columns changed. */
// @ts-ignore: decorator
@inline
export function turn(from: usize, fromStep: usize, to: usize, toStep: usize): void {
  const a = v128.load(from)
  const b = v128.load(from + fromStep)
  const d = v128.load(from + 2 * fromStep)
  const e = v128.load(from + 3 * fromStep)
  const low01 = v128.shuffle<f32>(a, b, 0, 4, 1, 5)
  const low23 = v128.shuffle<f32>(d, e, 0, 4, 1, 5)
  const high01 = v128.shuffle<f32>(a, b, 2, 6, 3, 7)
  const high23 = v128.shuffle<f32>(d, e, 2, 6, 3, 7)
  v128.store(to, v128.shuffle<f32>(low01, low23, 0, 1, 4, 5))
  v128.store(to + toStep, v128.shuffle<f32>(low01, low23, 2, 3, 6, 7))
  v128.store(to + 2 * toStep, v128.shuffle<f32>(high01, high23, 0, 1, 4, 5))
  v128.store(to + 3 * toStep, v128.shuffle<f32>(high01, high23, 2, 3, 6, 7))
}
