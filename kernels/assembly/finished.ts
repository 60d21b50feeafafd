// What finished pictures are compared by: fine edges, noise, and the lines that tell whether they are level. Codes of 8 or 16 bits, interleaved.

/** Pixels to either side of an edge that its step is taken over; src/pixels/detail.ts names it too. */
const reach: i32 = 4
/** A block's edge, and how near to the ends of 0–255 its noise counts as cut off. */
const blockEdge: i32 = 21
const cutOff: f32 = 4
/** One block's luma, and a row more. */
const block = memory.data(1936, 16)

// @ts-ignore: decorator
@inline
function codeAt(at: usize, wide: bool): f32 {
  return wide ? <f32>load<u16>(at) : <f32>load<u8>(at)
}

// @ts-ignore: decorator
@inline
function lumaAt(at: usize, wide: bool, shares: usize): f32 {
  const next: usize = wide ? 2 : 1
  return f32.load(shares) * codeAt(at, wide) + f32.load(shares, 4) * codeAt(at + next, wide) + f32.load(shares, 8) * codeAt(at + 2 * next, wide)
}

/** Pixels that lie `step` bytes apart, each channel times its share (3 floats), added up. */
export function lumaLine(codes: usize, wide: bool, step: usize, count: i32, shares: usize, target: usize): void {
  for (let i = 0; i < count; i++) {
    f32.store(target, lumaAt(codes, wide, shares))
    codes += step
    target += 4
  }
}

// @ts-ignore: decorator
@inline
function stepAt(at: usize): f32 {
  return Mathf.abs(f32.load(at, reach << 2) - f32.load(at - (reach << 2)))
}

/**
 * Of each edge along a line whose step is `least` or more, what share of it lies within one pixel; one edge for every two steps' length at
 * most. Returns how many.
 */
export function edgesAlong(line: usize, count: i32, least: f32, target: usize): i32 {
  let found = 0
  const end = count - reach
  for (let i = reach; i < end; i++) {
    let step = stepAt(line + (<usize>i << 2))
    if (step < least) continue
    // The crest of this edge: no further one within twice the reach is steeper.
    let crest = i
    for (let j = i + 1; j < min(end, crest + 2 * reach); j++) {
      const other = stepAt(line + (<usize>j << 2))
      if (other > step) {
        step = other
        crest = j
      }
    }
    let steepest: f32 = 0
    for (let j = crest - reach; j < crest + reach; j++) {
      const at = line + (<usize>j << 2)
      steepest = Mathf.max(steepest, Mathf.abs(f32.load(at, 4) - f32.load(at)))
    }
    f32.store(target + (<usize>found << 2), steepest / step)
    found++
    i = crest + 2 * reach
  }
  return found
}

/** Noise of a block of 21 × 21 pixels by the mask of Immerkær 1996, in the levels that `shares` lead to; −1 where it is cut off. `rowBytes`: from row to row of codes. */
export function noiseOfBlock(codes: usize, wide: bool, step: usize, rowBytes: usize, shares: usize): f32 {
  for (let y = 0; y < blockEdge; y++) {
    for (let x = 0; x < blockEdge; x++) {
      const luma = lumaAt(codes + <usize>y * rowBytes + <usize>x * step, wide, shares)
      if (luma < cutOff || luma > 255 - cutOff) return -1
      f32.store(block + (<usize>(y * blockEdge + x) << 2), luma)
    }
  }
  let sum: f64 = 0
  const row: usize = <usize>blockEdge << 2
  for (let y = 1; y < blockEdge - 1; y++)
    for (let x = 1; x < blockEdge - 1; x++) {
      const at = block + (<usize>(y * blockEdge + x) << 2)
      sum += <f64>Mathf.abs(bend(at - row) - 2 * bend(at) + bend(at + row))
    }
  const inner = <f64>(blockEdge - 2)
  return <f32>((Math.sqrt(Math.PI / 2) * sum) / (6 * inner * inner))
}

// @ts-ignore: decorator
@inline
function bend(at: usize): f32 {
  return f32.load(at - 4) - 2 * f32.load(at) + f32.load(at, 4)
}

/**
 * Adds to `count` pixels of three planes the light of pixels in a row of codes: for each, `reads` of them, `step` bytes apart, from places
 * `factor` bytes apart. `light`: of the 256 codes; of 16 bits the upper eight are read.
 */
export function addLight(
  codes: usize,
  wide: bool,
  count: i32,
  factor: usize,
  step: usize,
  reads: i32,
  light: usize,
  r: usize,
  g: usize,
  b: usize,
): void {
  const next: usize = wide ? 2 : 1
  if (wide) codes += 1
  for (let x = 0; x < count; x++) {
    let red: f32 = 0
    let green: f32 = 0
    let blue: f32 = 0
    let at = codes
    for (let read = 0; read < reads; read++) {
      red += f32.load(light + (<usize>load<u8>(at) << 2))
      green += f32.load(light + (<usize>load<u8>(at + next) << 2))
      blue += f32.load(light + (<usize>load<u8>(at + 2 * next) << 2))
      at += step
    }
    f32.store(r, f32.load(r) + red)
    f32.store(g, f32.load(g) + green)
    f32.store(b, f32.load(b) + blue)
    codes += factor
    r += 4
    g += 4
    b += 4
  }
}

/** 0: 3 / 32, 1: 10 / 32 */
const scharr = memory.data<f32>([0.09375, 0.3125])

// @ts-ignore: decorator
@inline
function derivative(firstAbove: v128, firstHere: v128, firstBelow: v128, above: v128, here: v128, below: v128): v128 {
  const outer = f32x4.mul(v128.load32_splat(scharr), f32x4.add(f32x4.sub(above, firstAbove), f32x4.sub(below, firstBelow)))
  return f32x4.add(outer, f32x4.mul(v128.load32_splat(scharr, 4), f32x4.sub(here, firstHere)))
}

/**
 * Products of Scharr's derivatives, which keep directions to a few hundredths of a degree: across squared, across times down, down squared. A
 * plane's outermost pixels get 0. Rows without gaps; room for a vector behind each target's end.
 */
export function slopeProducts(light: usize, width: i32, height: i32, xx: usize, xy: usize, yy: usize): void {
  const row: usize = <usize>width << 2
  const bytes = row * <usize>height
  memory.fill(xx, 0, row)
  memory.fill(xy, 0, row)
  memory.fill(yy, 0, row)
  for (let y = 1; y < height - 1; y++) {
    const start = row * <usize>y
    for (let x = 1; x < width - 1; x += 4) {
      const i = start + (<usize>x << 2)
      const at = light + i
      const a = v128.load(at - row - 4)
      const b = v128.load(at - row)
      const c = v128.load(at - row, 4)
      const f = v128.load(at + row - 4)
      const g = v128.load(at + row)
      const h = v128.load(at + row, 4)
      const across = derivative(a, v128.load(at - 4), f, c, v128.load(at, 4), h)
      const down = derivative(a, b, c, f, g, h)
      v128.store(xx + i, f32x4.mul(across, across))
      v128.store(xy + i, f32x4.mul(across, down))
      v128.store(yy + i, f32x4.mul(down, down))
    }
    const last = start + row - 4
    f32.store(xx + start, 0)
    f32.store(xy + start, 0)
    f32.store(yy + start, 0)
    f32.store(xx + last, 0)
    f32.store(xy + last, 0)
    f32.store(yy + last, 0)
  }
  memory.fill(xx + bytes - row, 0, row)
  memory.fill(xy + bytes - row, 0, row)
  memory.fill(yy + bytes - row, 0, row)
}

/**
 * Where edges are straight: the numbers of those pixels, `margin` or more from the sides, whose window holds `leastEnergy` and is as coherent
 * as `leastCoherence`, and that stand above their window's mean themselves. `xx` and `yy`: a pixel's own; `meanXx` …: of its window. Returns
 * how many.
 */
export function straightPlaces(
  xx: usize,
  yy: usize,
  meanXx: usize,
  meanXy: usize,
  meanYy: usize,
  width: i32,
  height: i32,
  margin: i32,
  leastEnergy: f32,
  leastCoherence: f32,
  target: usize,
): i32 {
  let found = 0
  for (let y = margin; y < height - margin; y++)
    for (let x = margin; x < width - margin; x++) {
      const i: usize = <usize>(y * width + x) << 2
      const a = f32.load(meanXx + i)
      const c = f32.load(meanYy + i)
      const energy = a + c
      if (energy < leastEnergy || f32.load(xx + i) + f32.load(yy + i) < energy) continue
      const b = f32.load(meanXy + i)
      const least = leastCoherence * energy
      if ((a - c) * (a - c) + 4 * b * b < least * least) continue
      i32.store(target + (<usize>found << 2), y * width + x)
      found++
    }
  return found
}

/**
 * How much of edges lies on common lines at an angle (Duda & Hart 1972, for one angle): the sum of the squared lengths of all lines, and the
 * longest, as two doubles at `target`, on top of what is there. Edges by their places from the middle, `off` the line through it and `along`
 * that; `lines`: room for `lineCount` floats, a line a pixel, the one through the middle in its middle.
 */
export function scoreLines(
  off: usize,
  along: usize,
  count: i32,
  cosine: f32,
  sine: f32,
  lines: usize,
  lineCount: i32,
  target: usize,
): void {
  memory.fill(lines, 0, <usize>lineCount << 2)
  const middle = <f32>(lineCount >> 1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const place = middle + f32.load(off + i) * cosine + f32.load(along + i) * sine
    const line = <i32>place
    const beyond = place - <f32>line
    const at = lines + (<usize>line << 2)
    f32.store(at, f32.load(at) + 1 - beyond)
    f32.store(at, f32.load(at, 4) + beyond, 4)
  }
  let energy = f64.load(target)
  let longest = f64.load(target, 8)
  for (let i: usize = 0, end: usize = <usize>lineCount << 2; i < end; i += 4) {
    const length = <f64>f32.load(lines + i)
    energy += length * length
    longest = max(longest, length)
  }
  f64.store(target, energy)
  f64.store(target, longest, 8)
}
