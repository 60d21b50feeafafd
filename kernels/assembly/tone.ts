// Tone point functions on three planes of `count` floats (a multiple of 4), in place.
import { oddPowerx4 } from './math'

/**
 * Linear gain with a highlight shoulder. Above the knee k the largest channel m is bent to
 * k + (1 − k)·t / (1 + t), t = (m − k) / (1 − k): slope 1 at the knee, below 1 for ever; the other
 * channels keep their ratio to it, so that hue stays. parameters: gain, knee (1 = no shoulder).
 */
export function exposure(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const gain = v128.load32_splat(parameters)
  const knee = v128.load32_splat(parameters, 4)
  const bends = f32.load(parameters, 4) < 1
  const one = f32x4.splat(1)
  const span = f32x4.sub(one, knee)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    let factor = gain
    if (bends) {
      const m = f32x4.mul(f32x4.pmax(x, f32x4.pmax(y, z)), gain)
      const isBent = f32x4.gt(m, knee)
      if (v128.any_true(isBent)) {
        const t = f32x4.div(f32x4.sub(m, knee), span)
        const bent = f32x4.add(knee, f32x4.mul(span, f32x4.div(t, f32x4.add(one, t))))
        factor = v128.bitselect(f32x4.mul(gain, f32x4.div(bent, m)), gain, isBent)
      }
    }
    v128.store(r + i, f32x4.mul(x, factor))
    v128.store(g + i, f32x4.mul(y, factor))
    v128.store(b + i, f32x4.mul(z, factor))
  }
}

// @ts-ignore: decorator
@inline
function levelsPlane(plane: usize, end: usize, p: usize): void {
  const scale = v128.load32_splat(p)
  const offset = v128.load32_splat(p, 4)
  const exponent = v128.load32_splat(p, 8)
  const outScale = v128.load32_splat(p, 12)
  const outOffset = v128.load32_splat(p, 16)
  const straight = f32.load(p, 8) == 1
  for (let i: usize = 0; i < end; i += 16) {
    let t = f32x4.add(f32x4.mul(v128.load(plane + i), scale), offset)
    if (!straight) t = oddPowerx4(t, exponent)
    v128.store(plane + i, f32x4.add(f32x4.mul(t, outScale), outOffset))
  }
}

/** Encoded values: (v·scale + offset)^exponent·outScale + outOffset, five floats a channel (15). */
export function levels(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  levelsPlane(r, end, parameters)
  levelsPlane(g, end, parameters + 20)
  levelsPlane(b, end, parameters + 40)
}

/** One plane: target = base + (target − base)·strength. */
export function mix(target: usize, base: usize, count: i32, strength: f32): void {
  const s = f32x4.splat(strength)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const from = v128.load(base + i)
    v128.store(target + i, f32x4.add(from, f32x4.mul(f32x4.sub(v128.load(target + i), from), s)))
  }
}

// @ts-ignore: decorator
@inline
function contrastPlane(plane: usize, end: usize, p: usize): void {
  const lift = v128.load32_splat(p)
  const steepness = v128.load32_splat(p, 4)
  const pivot = v128.load32_splat(p, 8)
  const one = f32x4.splat(1)
  const above = f32x4.sub(one, pivot)
  const lifts = f32.load(p) != 1
  const bends = f32.load(p, 4) != 1
  for (let i: usize = 0; i < end; i += 16) {
    let value = v128.load(plane + i)
    if (lifts) value = oddPowerx4(value, lift)
    if (bends) {
      const low = f32x4.mul(pivot, oddPowerx4(f32x4.div(value, pivot), steepness))
      const high = f32x4.sub(one, f32x4.mul(above, oddPowerx4(f32x4.div(f32x4.sub(one, value), above), steepness)))
      value = v128.bitselect(low, high, f32x4.lt(value, pivot))
    }
    v128.store(plane + i, value)
  }
}

/**
 * Encoded values: v^lift, then an S about the pivot p: p·(v/p)^s below it, 1 − (1 − p)·((1 − v)/(1 − p))^s above; 0, p and 1
 * stay where they are. parameters: lift, steepness s, pivot.
 */
export function contrast(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  contrastPlane(r, end, parameters)
  contrastPlane(g, end, parameters)
  contrastPlane(b, end, parameters)
}
