// Changes of colour coordinates on three planes. The matrices come as parameters: the numbers stand
// once, in src/colour.
import { cubeRootx4 } from './math'

// @ts-ignore: decorator
@inline
function row(p: usize, offset: usize, x: v128, y: v128, z: v128): v128 {
  const at = p + offset
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(at), x), f32x4.mul(v128.load32_splat(at, 4), y)),
    f32x4.mul(v128.load32_splat(at, 8), z),
  )
}

/** parameters: 9 floats, row-major; in locals, since engines do not take loads out of a loop that stores. */
export function matrix(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const a0 = v128.load32_splat(parameters)
  const a1 = v128.load32_splat(parameters, 4)
  const a2 = v128.load32_splat(parameters, 8)
  const b0 = v128.load32_splat(parameters, 12)
  const b1 = v128.load32_splat(parameters, 16)
  const b2 = v128.load32_splat(parameters, 20)
  const c0 = v128.load32_splat(parameters, 24)
  const c1 = v128.load32_splat(parameters, 28)
  const c2 = v128.load32_splat(parameters, 32)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    v128.store(r + i, f32x4.add(f32x4.add(f32x4.mul(a0, x), f32x4.mul(a1, y)), f32x4.mul(a2, z)))
    v128.store(g + i, f32x4.add(f32x4.add(f32x4.mul(b0, x), f32x4.mul(b1, y)), f32x4.mul(b2, z)))
    v128.store(b + i, f32x4.add(f32x4.add(f32x4.mul(c0, x), f32x4.mul(c1, y)), f32x4.mul(c2, z)))
  }
}

/** Linear RGB → OKLab. parameters: RGB→cone 3×3, then cone root→Lab 3×3 (18 floats). */
export function toOklab(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    const l = cubeRootx4(row(parameters, 0, x, y, z))
    const m = cubeRootx4(row(parameters, 12, x, y, z))
    const s = cubeRootx4(row(parameters, 24, x, y, z))
    v128.store(r + i, row(parameters, 36, l, m, s))
    v128.store(g + i, row(parameters, 48, l, m, s))
    v128.store(b + i, row(parameters, 60, l, m, s))
  }
}

/** OKLab → linear RGB. parameters: Lab→cone root 3×3, then cone→RGB 3×3 (18 floats). */
export function fromOklab(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    let l = row(parameters, 0, x, y, z)
    let m = row(parameters, 12, x, y, z)
    let s = row(parameters, 24, x, y, z)
    l = f32x4.mul(f32x4.mul(l, l), l)
    m = f32x4.mul(f32x4.mul(m, m), m)
    s = f32x4.mul(f32x4.mul(s, s), s)
    v128.store(r + i, row(parameters, 36, l, m, s))
    v128.store(g + i, row(parameters, 48, l, m, s))
    v128.store(b + i, row(parameters, 60, l, m, s))
  }
}

/** OKLab chroma times a gain: hue and lightness stay. parameters: gain. */
export function chromaGain(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  const gain = v128.load32_splat(parameters)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(a + i, f32x4.mul(v128.load(a + i), gain))
    v128.store(b + i, f32x4.mul(v128.load(b + i), gain))
  }
}

/** 3×3 matrix and offsets: r' = m0·r + m1·g + m2·b + m3 and so on. parameters: 12 floats, four a row. */
export function affine(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const offsetRed = v128.load32_splat(parameters, 12)
  const offsetGreen = v128.load32_splat(parameters, 28)
  const offsetBlue = v128.load32_splat(parameters, 44)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    v128.store(r + i, f32x4.add(row(parameters, 0, x, y, z), offsetRed))
    v128.store(g + i, f32x4.add(row(parameters, 16, x, y, z), offsetGreen))
    v128.store(b + i, f32x4.add(row(parameters, 32, x, y, z), offsetBlue))
  }
}

/** Smooth step of t between 0 and 1: 3t² − 2t³, held at both ends. */
// @ts-ignore: decorator
@inline
function smooth(t: v128): v128 {
  const held = f32x4.pmin(f32x4.pmax(t, f32x4.splat(0)), f32x4.splat(1))
  return f32x4.mul(f32x4.mul(held, held), f32x4.sub(f32x4.splat(3), f32x4.add(held, held)))
}

/**
 * OKLab chroma gain that is strongest for weak colours: 1 + amount · (1 − smooth(c / full)) · (1 − guard · skin), where
 * skin falls from 1 on the hue direction (u, v) to 0 at the cosine `edge` from it.
 * parameters: amount, 1/full, guard, u, v, edge, 1/(1 − edge).
 */
export function vibrance(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  const amount = v128.load32_splat(parameters)
  const perFull = v128.load32_splat(parameters, 4)
  const guard = v128.load32_splat(parameters, 8)
  const u = v128.load32_splat(parameters, 12)
  const v = v128.load32_splat(parameters, 16)
  const edge = v128.load32_splat(parameters, 20)
  const perRest = v128.load32_splat(parameters, 24)
  const one = f32x4.splat(1)
  const tiny = f32x4.splat(1e-12)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(a + i)
    const y = v128.load(b + i)
    const chroma = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), tiny))
    const cosine = f32x4.div(f32x4.add(f32x4.mul(x, u), f32x4.mul(y, v)), chroma)
    const skin = smooth(f32x4.mul(f32x4.sub(cosine, edge), perRest))
    const weak = f32x4.sub(one, smooth(f32x4.mul(chroma, perFull)))
    const gain = f32x4.add(one, f32x4.mul(f32x4.mul(amount, weak), f32x4.sub(one, f32x4.mul(guard, skin))))
    v128.store(a + i, f32x4.mul(x, gain))
    v128.store(b + i, f32x4.mul(y, gain))
  }
}

/**
 * Adds OKLab colour by lightness: the weights (1 − L)², 2L(1 − L), L² of shadows, mids and highlights sum to one; the
 * envelope 1 − (2L − 1)⁴ leaves black and white neutral. parameters: a and b of shadows, mids, highlights (6 floats).
 */
export function splitTint(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  const one = f32x4.splat(1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const light = f32x4.pmin(f32x4.pmax(v128.load(l + i), f32x4.splat(0)), one)
    const dark = f32x4.sub(one, light)
    const span = f32x4.sub(light, dark)
    const square = f32x4.mul(span, span)
    const envelope = f32x4.sub(one, f32x4.mul(square, square))
    const shadows = f32x4.mul(f32x4.mul(dark, dark), envelope)
    const highlights = f32x4.mul(f32x4.mul(light, light), envelope)
    const mids = f32x4.mul(f32x4.mul(f32x4.add(light, light), dark), envelope)
    v128.store(a + i, f32x4.add(v128.load(a + i), row(parameters, 0, shadows, mids, highlights)))
    v128.store(b + i, f32x4.add(v128.load(b + i), row(parameters, 12, shadows, mids, highlights)))
  }
}

/**
 * A white balance that knows what a channel at its end does not tell: it was at least so bright. So the balanced channel is raised towards
 * the brightest of the others, never above it: what was white and is cut off comes out white, and a colour with one channel at its end
 * keeps its hue, for a channel that leads already is left where it is. All in the source's own primaries.
 * parameters: 9 of the balance, 9 to the source's primaries, 9 back, where clipping begins, 1/(1 − begin).
 */
export function balanceKnown(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const begin = v128.load32_splat(parameters, 108)
  const perRest = v128.load32_splat(parameters, 112)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    let red = row(parameters, 0, x, y, z)
    let green = row(parameters, 12, x, y, z)
    let blue = row(parameters, 24, x, y, z)
    const lostRed = f32x4.sub(row(parameters, 36, x, y, z), begin)
    const lostGreen = f32x4.sub(row(parameters, 48, x, y, z), begin)
    const lostBlue = f32x4.sub(row(parameters, 60, x, y, z), begin)
    const highest = f32x4.pmax(lostRed, f32x4.pmax(lostGreen, lostBlue))
    if (v128.any_true(f32x4.gt(highest, f32x4.splat(0)))) {
      const ownRed = row(parameters, 36, red, green, blue)
      const ownGreen = row(parameters, 48, red, green, blue)
      const ownBlue = row(parameters, 60, red, green, blue)
      const most = f32x4.pmax(ownRed, f32x4.pmax(ownGreen, ownBlue))
      const moreRed = f32x4.mul(smooth(f32x4.mul(lostRed, perRest)), f32x4.sub(most, ownRed))
      const moreGreen = f32x4.mul(smooth(f32x4.mul(lostGreen, perRest)), f32x4.sub(most, ownGreen))
      const moreBlue = f32x4.mul(smooth(f32x4.mul(lostBlue, perRest)), f32x4.sub(most, ownBlue))
      red = f32x4.add(red, row(parameters, 72, moreRed, moreGreen, moreBlue))
      green = f32x4.add(green, row(parameters, 84, moreRed, moreGreen, moreBlue))
      blue = f32x4.add(blue, row(parameters, 96, moreRed, moreGreen, moreBlue))
    }
    v128.store(r + i, red)
    v128.store(g + i, green)
    v128.store(b + i, blue)
  }
}

/**
 * A white balance that keeps clipped highlights white. Where a source channel is at its end the true colour is lost, and
 * balancing what is left would tint it: there the balanced colour passes to its own largest channel as grey.
 * parameters: 9 of the balance, 9 to the source's own primaries, where clipping begins, 1/(1 − begin).
 */
export function balance(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const begin = v128.load32_splat(parameters, 72)
  const perRest = v128.load32_splat(parameters, 76)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    const highest = f32x4.pmax(row(parameters, 36, x, y, z), f32x4.pmax(row(parameters, 48, x, y, z), row(parameters, 60, x, y, z)))
    const lost = smooth(f32x4.mul(f32x4.sub(highest, begin), perRest))
    const red = row(parameters, 0, x, y, z)
    const green = row(parameters, 12, x, y, z)
    const blue = row(parameters, 24, x, y, z)
    const grey = f32x4.pmax(red, f32x4.pmax(green, blue))
    v128.store(r + i, f32x4.add(red, f32x4.mul(f32x4.sub(grey, red), lost)))
    v128.store(g + i, f32x4.add(green, f32x4.mul(f32x4.sub(grey, green), lost)))
    v128.store(b + i, f32x4.add(blue, f32x4.mul(f32x4.sub(grey, blue), lost)))
  }
}
