// Functions read from tables with linear interpolation between entries: their shape is up to the caller.

/** A table's first two floats are the slopes below 0 and above 1; 2^11 spans of equal width follow. */
const spans: i32 = 2048
export const tableFloats: i32 = spans + 3

/** Between four entries, so many bytes on, and the ones behind them: they have to be fetched one by one, all else is done together. */
// @ts-ignore: decorator
@inline
function between(table: usize, offsets: v128, share: v128): v128 {
  const p0 = v128.load64_zero(table + <usize>i32x4.extract_lane(offsets, 0))
  const p01 = v128.load64_lane(table + <usize>i32x4.extract_lane(offsets, 1), p0, 1)
  const p2 = v128.load64_zero(table + <usize>i32x4.extract_lane(offsets, 2))
  const p23 = v128.load64_lane(table + <usize>i32x4.extract_lane(offsets, 3), p2, 1)
  const low = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6)
  const high = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7)
  return f32x4.add(low, f32x4.mul(f32x4.sub(high, low), share))
}

// @ts-ignore: decorator
@inline
function lookUpx4(value: v128, table: usize): v128 {
  const first = table + 8
  const zero = f32x4.splat(0)
  const t = f32x4.pmin(f32x4.pmax(f32x4.mul(value, f32x4.splat(<f32>spans)), zero), f32x4.splat(<f32>spans))
  const index = i32x4.min_s(i32x4.trunc_sat_f32x4_s(t), i32x4.splat(spans - 1))
  const share = f32x4.sub(t, f32x4.convert_i32x4_s(index))
  const inside = between(first, i32x4.shl(index, 2), share)
  const below = f32x4.mul(f32x4.pmin(value, zero), v128.load32_splat(table))
  const above = f32x4.mul(f32x4.pmax(f32x4.sub(value, f32x4.splat(1)), zero), v128.load32_splat(table, 4))
  return f32x4.add(inside, f32x4.add(below, above))
}

// @ts-ignore: decorator
@inline
function curvePlane(plane: usize, end: usize, table: usize): void {
  for (let i: usize = 0; i < end; i += 16) v128.store(plane + i, lookUpx4(v128.load(plane + i), table))
}

/** Each plane through its own table. parameters: three tables, one behind the other. */
export function curve(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  curvePlane(r, end, parameters)
  curvePlane(g, end, parameters + (tableFloats << 2))
  curvePlane(b, end, parameters + (tableFloats << 3))
}

/** Spans of a table over light: from −1 to 0, even in the root; then 128 of each of 32 octaves from 2^−20 on, for values shifted by that much. */
const belowSpans: i32 = 256
const lightSpans: i32 = 4096
/** Of a float: the bits of 2^−20; of what lies behind those, the ones that only numbers outside the octaves have; how many are within a span. */
const firstBits: i32 = 0x35800000
const outsideBits: i32 = 0xf0000000
const spanBits: i32 = 16
const lightShift: f32 = 1 / <f32>1048576

/** Where the last span begins, and one over its width. */
const lastSpan: f32 = 4080
const perLastSpan: f32 = 0.0625

/** Values that lie below 0, beyond the octaves or are no numbers, among others. The ones between are taken from `inside`. */
function beyondOctaves(value: v128, shifted: v128, inside: v128, table: usize): v128 {
  const zero = f32x4.splat(0)
  // The node before, and how far behind it in spans: at both ends beyond what there is.
  const spans = f32x4.splat(<f32>belowSpans)
  const t = f32x4.sub(spans, f32x4.mul(f32x4.sqrt(f32x4.abs(value)), spans))
  // In this order what is not a number is held, too: gaps between rows may hold anything.
  const held = f32x4.pmin(f32x4.pmax(zero, t), f32x4.splat(<f32>belowSpans - 1))
  const index = i32x4.trunc_sat_f32x4_s(held)
  const below = between(table, i32x4.shl(index, 2), f32x4.sub(t, f32x4.convert_i32x4_s(index)))
  const last = i32x4.splat((belowSpans + lightSpans - 1) << 2)
  const above = between(table, last, f32x4.mul(f32x4.sub(shifted, f32x4.splat(lastSpan)), f32x4.splat(perLastSpan)))
  const isOutside = i32x4.ne(v128.and(i32x4.sub(shifted, i32x4.splat(firstBits)), i32x4.splat(outsideBits)), zero)
  return v128.bitselect(v128.bitselect(below, above, f32x4.lt(value, zero)), inside, isOutside)
}

// @ts-ignore: decorator
@inline
function lightPlane(plane: usize, end: usize, table: usize): void {
  const shift = f32x4.splat(lightShift)
  const first = i32x4.splat(firstBits)
  const outside = i32x4.splat(outsideBits)
  const within = i32x4.splat((1 << spanBits) - 1)
  const perSpan = f32x4.splat(1 / <f32>(1 << spanBits))
  const offsets = i32x4.splat((lightSpans - 1) << 2)
  const octaves = table + (belowSpans << 2)
  for (let i: usize = 0; i < end; i += 16) {
    const value = v128.load(plane + i)
    const shifted = f32x4.add(value, shift)
    // A float's bits, counted on, are a number of spans: octave, then even parts of it.
    const bits = i32x4.sub(shifted, first)
    const share = f32x4.mul(f32x4.convert_i32x4_s(v128.and(bits, within)), perSpan)
    let result = between(octaves, v128.and(i32x4.shr_u(bits, spanBits - 2), offsets), share)
    if (v128.any_true(v128.and(bits, outside))) result = beyondOctaves(value, shifted, result, table)
    v128.store(plane + i, result)
  }
}

/**
 * Each plane through its own table, in which entries lie close where transfer functions are steep, near black; found by a float's bits.
 * Linear between entries, and beyond the first and the last. parameters: three tables of 4353 floats; see `lightNodes` in src/operations.
 */
export function lightTables(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  const bytes: usize = <usize>(belowSpans + lightSpans + 1) << 2
  lightPlane(r, end, parameters)
  lightPlane(g, end, parameters + bytes)
  lightPlane(b, end, parameters + 2 * bytes)
}

/** The first plane alone through a table. */
export function curveFirst(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  curvePlane(l, <usize>count << 2, parameters)
}

/** All three planes times the table's value at `base`. */
export function gainByTable(l: usize, a: usize, b: usize, base: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const gain = lookUpx4(v128.load(base + i), parameters)
    v128.store(l + i, f32x4.mul(v128.load(l + i), gain))
    v128.store(a + i, f32x4.mul(v128.load(a + i), gain))
    v128.store(b + i, f32x4.mul(v128.load(b + i), gain))
  }
}

/** Four floats an entry; the hue circle is walked by diamond angle, which needs no arc tangent: 0 at +a, 1 at +b, 2 at −a, 3 at −b. */
const hueEntries: i32 = 1024

/**
 * OKLab by hue. Entry: cosine and sine of the hue's shift times its chroma gain, lightness added for each unit of chroma, unused.
 * parameters: 1025 entries, the last equal to the first.
 */
export function hueTable(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  const zero = f32x4.splat(0)
  const last = f32x4.splat(<f32>hueEntries - 1)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(a + i)
    const y = v128.load(b + i)
    const sum = f32x4.add(f32x4.abs(x), f32x4.abs(y))
    const t = v128.and(f32x4.div(y, sum), f32x4.gt(sum, zero))
    const right = v128.bitselect(t, f32x4.add(f32x4.splat(4), t), f32x4.ge(y, zero))
    const angle = v128.bitselect(right, f32x4.sub(f32x4.splat(2), t), f32x4.ge(x, zero))
    const place = f32x4.mul(angle, f32x4.splat(<f32>(hueEntries / 4)))
    // In this order what is not a number is held, too: gaps between rows may hold anything.
    const index = i32x4.trunc_sat_f32x4_s(f32x4.pmin(last, place))
    const share = f32x4.sub(place, f32x4.convert_i32x4_s(index))
    const p = entryAt(parameters, i32x4.extract_lane(index, 0), v128.shuffle<f32>(share, share, 0, 0, 0, 0))
    const q = entryAt(parameters, i32x4.extract_lane(index, 1), v128.shuffle<f32>(share, share, 1, 1, 1, 1))
    const r = entryAt(parameters, i32x4.extract_lane(index, 2), v128.shuffle<f32>(share, share, 2, 2, 2, 2))
    const s = entryAt(parameters, i32x4.extract_lane(index, 3), v128.shuffle<f32>(share, share, 3, 3, 3, 3))
    const turnsPq = v128.shuffle<f32>(p, q, 0, 4, 1, 5)
    const turnsRs = v128.shuffle<f32>(r, s, 0, 4, 1, 5)
    const cosine = v128.shuffle<f32>(turnsPq, turnsRs, 0, 1, 4, 5)
    const sine = v128.shuffle<f32>(turnsPq, turnsRs, 2, 3, 6, 7)
    const lift = v128.shuffle<f32>(v128.shuffle<f32>(p, q, 2, 6, 2, 6), v128.shuffle<f32>(r, s, 2, 6, 2, 6), 0, 1, 4, 5)
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)))
    v128.store(l + i, f32x4.add(v128.load(l + i), f32x4.mul(lift, chroma)))
    v128.store(a + i, f32x4.sub(f32x4.mul(x, cosine), f32x4.mul(y, sine)))
    v128.store(b + i, f32x4.add(f32x4.mul(x, sine), f32x4.mul(y, cosine)))
  }
}

/** Between an entry of four floats and the next. */
// @ts-ignore: decorator
@inline
function entryAt(table: usize, index: i32, share: v128): v128 {
  const at = table + (<usize>index << 4)
  const low = v128.load(at)
  return f32x4.add(low, f32x4.mul(f32x4.sub(v128.load(at, 16), low), share))
}

/**
 * A lightness plane through the curves of a grid of tiles, mixed linearly between the four nearest tile centres (Zuiderveld 1994).
 * `curves`: tilesAcross × tilesDown tables of 256 spans (257 floats) over 0–1; values beyond keep their distance to the end.
 * Pixel (i, j) lies at tile ((x + i + ½)·stepX − ½, …). Whole vectors are written.
 */
export function tileCurves(plane: usize, stride: i32, width: i32, height: i32, curves: usize, tilesAcross: i32, tilesDown: i32, stepX: f32, stepY: f32, x: i32, y: i32): void {
  const zero = f32x4.splat(0)
  const half = f32x4.splat(0.5)
  const one = f32x4.splat(1)
  const steps = f32x4.splat(stepX)
  const lastTile = f32x4.splat(<f32>(tilesAcross - 1))
  for (let j = 0; j < height; j++) {
    const v = Mathf.min(Mathf.max((<f32>(y + j) + 0.5) * stepY - 0.5, 0), <f32>(tilesDown - 1))
    const top = <i32>v
    const down = v - <f32>top
    const upper = curves + <usize>(top * tilesAcross) * 1028
    const lower = curves + <usize>(min(top + 1, tilesDown - 1) * tilesAcross) * 1028
    for (let i = 0; i < width; i += 4) {
      const centres = f32x4.add(f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(x + i), i32x4(0, 1, 2, 3))), half)
      const u = f32x4.pmin(f32x4.pmax(zero, f32x4.sub(f32x4.mul(centres, steps), half)), lastTile)
      const left = i32x4.trunc_sat_f32x4_s(u)
      const right = i32x4.min_s(i32x4.add(left, i32x4.splat(1)), i32x4.splat(tilesAcross - 1))
      const across = f32x4.sub(u, f32x4.convert_i32x4_s(left))
      const at = plane + (<usize>(j * stride + i) << 2)
      const value = v128.load(at)
      const held = f32x4.pmin(f32x4.pmax(zero, value), one)
      const t = f32x4.mul(held, f32x4.splat(256))
      const index = i32x4.trunc_sat_f32x4_s(f32x4.pmin(t, f32x4.splat(255)))
      const share = f32x4.sub(t, f32x4.convert_i32x4_s(index))
      const place = i32x4.shl(index, 2)
      const here = i32x4.add(i32x4.mul(left, i32x4.splat(1028)), place)
      const next = i32x4.add(i32x4.mul(right, i32x4.splat(1028)), place)
      const rest = f32x4.sub(one, across)
      const high = f32x4.add(f32x4.mul(between(upper, here, share), rest), f32x4.mul(between(upper, next, share), across))
      const low = f32x4.add(f32x4.mul(between(lower, here, share), rest), f32x4.mul(between(lower, next, share), across))
      v128.store(at, f32x4.add(f32x4.add(high, f32x4.mul(f32x4.sub(low, high), f32x4.splat(down))), f32x4.sub(value, held)))
    }
  }
}

/**
 * A 3D table by tetrahedral interpolation (Kasson, Nin, Plouffe & Hafner 1995). Values outside 0 … 1 take the border's entry plus what
 * they lie beyond it, so that nothing is cut off. `table`: size³ vectors (r, g, b, 0), red changing fastest.
 */
export function lookTable(r: usize, g: usize, b: usize, count: i32, table: usize, size: i32): void {
  const last = <f32>(size - 1)
  const stepG: usize = <usize>size << 4
  const stepB: usize = <usize>(size * size) << 4
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const red = f32.load(r + i)
    const green = f32.load(g + i)
    const blue = f32.load(b + i)
    const x = held(red) * last
    const y = held(green) * last
    const z = held(blue) * last
    const cellX = min(<i32>x, size - 2)
    const cellY = min(<i32>y, size - 2)
    const cellZ = min(<i32>z, size - 2)
    const fx = x - <f32>cellX
    const fy = y - <f32>cellY
    const fz = z - <f32>cellZ
    const at = table + (<usize>cellX << 4) + <usize>cellY * stepG + <usize>cellZ * stepB
    // The way from the near corner to the far one goes along the axes in the order of their fractions.
    let first: usize = 0
    let second: usize = 0
    let high: f32 = 0
    let middle: f32 = 0
    let low: f32 = 0
    if (fx >= fy) {
      if (fy >= fz) {
        first = 16
        second = 16 + stepG
        high = fx
        middle = fy
        low = fz
      } else if (fx >= fz) {
        first = 16
        second = 16 + stepB
        high = fx
        middle = fz
        low = fy
      } else {
        first = stepB
        second = 16 + stepB
        high = fz
        middle = fx
        low = fy
      }
    } else if (fz >= fy) {
      first = stepB
      second = stepB + stepG
      high = fz
      middle = fy
      low = fx
    } else if (fz >= fx) {
      first = stepG
      second = stepB + stepG
      high = fy
      middle = fz
      low = fx
    } else {
      first = stepG
      second = 16 + stepG
      high = fy
      middle = fx
      low = fz
    }
    const near = f32x4.mul(v128.load(at), f32x4.splat(1 - high))
    const one = f32x4.mul(v128.load(at + first), f32x4.splat(high - middle))
    const two = f32x4.mul(v128.load(at + second), f32x4.splat(middle - low))
    const far = f32x4.mul(v128.load(at + 16 + stepG + stepB), f32x4.splat(low))
    const sum = f32x4.add(f32x4.add(near, one), f32x4.add(two, far))
    f32.store(r + i, f32x4.extract_lane(sum, 0) + (red - held(red)))
    f32.store(g + i, f32x4.extract_lane(sum, 1) + (green - held(green)))
    f32.store(b + i, f32x4.extract_lane(sum, 2) + (blue - held(blue)))
  }
}

// @ts-ignore: decorator
@inline
function held(value: f32): f32 {
  return value > 0 ? (value < 1 ? value : 1) : 0
}
