// Point functions that also read a plane made from the surroundings of each pixel: a base or a transmission.

/** target = a·guide + b, the second half of a guided filter (He, Sun & Tang 2010). */
export function affineOf(guide: usize, a: usize, b: usize, target: usize, count: i32): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16)
    v128.store(target + i, f32x4.add(f32x4.mul(v128.load(a + i), v128.load(guide + i)), v128.load(b + i)))
}

/**
 * Read from memory rather than built anew at every use (see math.ts). 0: 0, 1: 1, 2: 3, 3: keeps 0 / 0 away from chroma, 4: and from
 * lightness, 5: full skin guard from a chroma of 1/33 on, 6, 7: bright above 0.65 … 0.95, 8, 7: dark below 0.35 … 0.05, 9, 10: bounds of
 * the ratio that chroma follows by
 */
const table = memory.data<f32>([0.0, 1.0, 3.0, 1e-12, 1e-6, 33.0, 0.65, 3.3333333, 0.35, 0.5, 2.0])

// @ts-ignore: decorator
@inline
function k(index: usize): v128 {
  return v128.load32_splat(table + (index << 2))
}

// @ts-ignore: decorator
@inline
function smooth(t: v128): v128 {
  const held = f32x4.pmin(f32x4.pmax(t, k(0)), k(1))
  return f32x4.mul(f32x4.mul(held, held), f32x4.sub(k(2), f32x4.add(held, held)))
}

/**
 * OKLab: lifts the detail L − base by `amount`, less where a guard holds: near white, near black, and around the hue (u, v).
 * Chroma follows lightness, so that colours keep their strength. parameters: amount, highlight guard, shadow guard, skin guard,
 * u, v, edge cosine, 1/(1 − edge).
 */
export function localContrast(l: usize, a: usize, b: usize, base: usize, count: i32, parameters: usize): void {
  const amount = v128.load32_splat(parameters)
  const highGuard = v128.load32_splat(parameters, 4)
  const lowGuard = v128.load32_splat(parameters, 8)
  const skinGuard = v128.load32_splat(parameters, 12)
  const u = v128.load32_splat(parameters, 16)
  const v = v128.load32_splat(parameters, 20)
  const edge = v128.load32_splat(parameters, 24)
  const perRest = v128.load32_splat(parameters, 28)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const light = v128.load(l + i)
    const x = v128.load(a + i)
    const y = v128.load(b + i)
    const ground = v128.load(base + i)
    const chroma = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), k(3)))
    const cosine = f32x4.div(f32x4.add(f32x4.mul(x, u), f32x4.mul(y, v)), chroma)
    const skin = f32x4.mul(smooth(f32x4.mul(f32x4.sub(cosine, edge), perRest)), smooth(f32x4.mul(chroma, k(5))))
    const bright = smooth(f32x4.mul(f32x4.sub(ground, k(6)), k(7)))
    const dark = smooth(f32x4.mul(f32x4.sub(k(8), ground), k(7)))
    let weight = f32x4.mul(f32x4.sub(k(1), f32x4.mul(highGuard, bright)), f32x4.sub(k(1), f32x4.mul(lowGuard, dark)))
    weight = f32x4.mul(weight, f32x4.sub(k(1), f32x4.mul(skinGuard, skin)))
    const lifted = f32x4.add(light, f32x4.mul(f32x4.mul(amount, weight), f32x4.sub(light, ground)))
    const ratio = f32x4.div(f32x4.pmax(lifted, k(4)), f32x4.pmax(light, k(4)))
    const held = f32x4.pmin(f32x4.pmax(ratio, k(9)), k(10))
    v128.store(l + i, lifted)
    v128.store(a + i, f32x4.mul(x, held))
    v128.store(b + i, f32x4.mul(y, held))
  }
}

/**
 * Linear light through haze. J = (I − A)/t + A takes it away, I·t + A·(1 − t) lays it on. parameters: airlight A (3 floats),
 * 1 to lay on, 0 to take away. `transmission` holds t, above 0.
 */
export function haze(r: usize, g: usize, b: usize, transmission: usize, count: i32, parameters: usize): void {
  const lays = f32.load(parameters, 12) > 0
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const t = v128.load(transmission + i)
    const factor = lays ? t : f32x4.div(f32x4.splat(1), t)
    hazePlane(r + i, factor, v128.load32_splat(parameters))
    hazePlane(g + i, factor, v128.load32_splat(parameters, 4))
    hazePlane(b + i, factor, v128.load32_splat(parameters, 8))
  }
}

// @ts-ignore: decorator
@inline
function hazePlane(at: usize, factor: v128, air: v128): void {
  v128.store(at, f32x4.add(air, f32x4.mul(f32x4.sub(v128.load(at), air), factor)))
}

/** A plane held between two values. */
export function clampPlane(plane: usize, count: i32, lowest: f32, highest: f32): void {
  const low = f32x4.splat(lowest)
  const high = f32x4.splat(highest)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16)
    v128.store(plane + i, f32x4.pmin(f32x4.pmax(v128.load(plane + i), low), high))
}

/** Lightness plus grain, strongest in the middle tones: weight 4L(1 − L) between black and white, never negative. */
export function addGrain(l: usize, grain: usize, count: i32, amount: f32): void {
  const gain = f32x4.splat(4 * amount)
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const light = v128.load(l + i)
    const weight = f32x4.pmax(f32x4.mul(light, f32x4.sub(one, light)), zero)
    v128.store(l + i, f32x4.add(light, f32x4.mul(f32x4.mul(gain, weight), v128.load(grain + i))))
  }
}
