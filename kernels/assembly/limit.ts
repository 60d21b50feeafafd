// Where a step applies: masks of 0 … 1, painted on a plane, and mixing by them. Counts are multiples of 4.

// @ts-ignore: decorator
@inline
function smoothStep(t: v128): v128 {
  const held = f32x4.pmin(f32x4.pmax(t, f32x4.splat(0)), f32x4.splat(1))
  return f32x4.mul(f32x4.mul(held, held), f32x4.sub(f32x4.splat(3), f32x4.add(held, held)))
}

/** target = base + (target − base) · mask · strength */
export function mixMasked(target: usize, base: usize, mask: usize, count: i32, strength: f32): void {
  const share = f32x4.splat(strength)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const before = v128.load(base + i)
    const weight = f32x4.mul(v128.load(mask + i), share)
    v128.store(target + i, f32x4.add(before, f32x4.mul(f32x4.sub(v128.load(target + i), before), weight)))
  }
}

/** 1 between `from` and `to`, smoothly down to 0 over `softness` beyond them. */
export function limitRange(values: usize, mask: usize, count: i32, from: f32, to: f32, softness: f32): void {
  const low = f32x4.splat(from)
  const high = f32x4.splat(to)
  const per = f32x4.splat(1 / Mathf.max(softness, 1e-6))
  const one = f32x4.splat(1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const value = v128.load(values + i)
    const outside = f32x4.pmax(f32x4.sub(low, value), f32x4.sub(value, high))
    v128.store(mask + i, smoothStep(f32x4.sub(one, f32x4.mul(outside, per))))
  }
}

/**
 * OKLab a and b: 1 within `inner` of the hue (u, v), smoothly down to 0 at `outer`, all as cosines; and only from `minChroma` on,
 * smoothly from half of it.
 */
export function limitColour(a: usize, b: usize, mask: usize, count: i32, u: f32, v: f32, inner: f32, outer: f32, minChroma: f32): void {
  const dx = f32x4.splat(u)
  const dy = f32x4.splat(v)
  const edge = f32x4.splat(outer)
  const per = f32x4.splat(1 / Mathf.max(inner - outer, 1e-6))
  const half = f32x4.splat(minChroma * 0.5)
  const perChroma = f32x4.splat(1 / Mathf.max(minChroma * 0.5, 1e-6))
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(a + i)
    const y = v128.load(b + i)
    const chroma = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.splat(1e-12)))
    const cosine = f32x4.div(f32x4.add(f32x4.mul(x, dx), f32x4.mul(y, dy)), chroma)
    const hue = smoothStep(f32x4.mul(f32x4.sub(cosine, edge), per))
    v128.store(mask + i, f32x4.mul(hue, smoothStep(f32x4.mul(f32x4.sub(chroma, half), perChroma))))
  }
}

/** Smooth step of the square root: 0 below `from`, 1 above `to`. */
export function limitEnergy(energy: usize, mask: usize, count: i32, from: f32, to: f32): void {
  const low = f32x4.splat(from)
  const per = f32x4.splat(1 / Mathf.max(to - from, 1e-6))
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const value = f32x4.sqrt(f32x4.pmax(v128.load(energy + i), f32x4.splat(0)))
    v128.store(mask + i, smoothStep(f32x4.mul(f32x4.sub(value, low), per)))
  }
}

/** (a − b)² */
export function squareDifference(a: usize, b: usize, target: usize, count: i32): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const difference = f32x4.sub(v128.load(a + i), v128.load(b + i))
    v128.store(target + i, f32x4.mul(difference, difference))
  }
}

/** Middles of four pixels in a row, from `x` on. */
// @ts-ignore: decorator
@inline
function middlesFrom(x: i32): v128 {
  return f32x4.add(f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(x), i32x4(0, 1, 2, 3))), f32x4.splat(0.5))
}

/** 1 − smooth step of a place, held to 0 … 1. */
// @ts-ignore: decorator
@inline
function fallen(place: v128): v128 {
  const t = f32x4.pmin(f32x4.pmax(f32x4.splat(0), place), f32x4.splat(1))
  return f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), t))))
}

/**
 * 1 − smooth step of the place along a line: alongX·x + alongY·y + start is 0 where it begins to fall and 1 where it has fallen. Whole
 * vectors are written.
 */
export function limitLinear(mask: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, alongX: f32, alongY: f32, start: f32): void {
  const along = f32x4.splat(alongX)
  for (let j = 0; j < height; j++) {
    const row = mask + (<usize>(j * stride) << 2)
    const down = f32x4.splat(alongY * (<f32>(y + j) + 0.5))
    for (let i = 0; i < width; i += 4) {
      const place = f32x4.add(f32x4.add(f32x4.mul(along, middlesFrom(x + i)), down), f32x4.splat(start))
      v128.store(row + (<usize>i << 2), fallen(place))
    }
  }
}

/** 1 inside an ellipse, smoothly down to 0 at its border from `inner` (0–1) of the way on. Whole vectors are written. */
export function limitRadial(mask: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, centreX: f32, centreY: f32, perX: f32, perY: f32, inner: f32): void {
  const per = f32x4.splat(1 / Mathf.max(1 - inner, 1e-6))
  for (let j = 0; j < height; j++) {
    const row = mask + (<usize>(j * stride) << 2)
    const down = (<f32>(y + j) + 0.5 - centreY) * perY
    const down2 = f32x4.splat(down * down)
    for (let i = 0; i < width; i += 4) {
      const across = f32x4.mul(f32x4.sub(middlesFrom(x + i), f32x4.splat(centreX)), f32x4.splat(perX))
      const far = f32x4.sqrt(f32x4.add(f32x4.mul(across, across), down2))
      v128.store(row + (<usize>i << 2), fallen(f32x4.mul(f32x4.sub(far, f32x4.splat(inner)), per)))
    }
  }
}

/** How one mask joins the one before: 0 both, 1 either, 2 the first without the second; `inverted` turns the second over first. */
export function joinMasks(mask: usize, other: usize, count: i32, how: i32, inverted: i32): void {
  const one = f32x4.splat(1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const first = v128.load(mask + i)
    const raw = v128.load(other + i)
    const second = inverted ? f32x4.sub(one, raw) : raw
    const joined = how == 0 ? f32x4.mul(first, second) : how == 1 ? f32x4.pmax(first, second) : f32x4.mul(first, f32x4.sub(one, second))
    v128.store(mask + i, joined)
  }
}
