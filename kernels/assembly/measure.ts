// What small copies of a picture are measured with: means of windows, guided filters, ranks. Rows without gaps, planes of any length.

/** 0: keeps 0 / 0 away, 8: 1, 16: 0 */
const table = memory.data<f64>([1e-9, 1.0, 0.0])

// @ts-ignore: decorator
@inline
function k(at: usize): v128 {
  return v128.load64_splat(table + at)
}

/** The lower two floats at an address, as doubles. */
// @ts-ignore: decorator
@inline
function pair(at: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(at))
}

/**
 * Means over 2·radius + 1 floats of a row, at its ends over what there is of them, in double precision. `shares`: one over how many floats
 * each mean is of, as doubles.
 */
export function boxMeanRows(source: usize, target: usize, width: i32, height: i32, radius: i32, shares: usize): void {
  const full = max(0, width - radius)
  const filled = min(radius + 1, full)
  const ahead: usize = <usize>radius << 2
  const behind: usize = ahead + 4
  for (let y = 0; y < height; y++) {
    let sum: f64 = 0
    for (let x = 0; x < min(radius, width); x++) sum += <f64>f32.load(source + (<usize>x << 2))
    let x = 0
    let at = source
    // What comes in, what comes in and goes out, what goes out: no question is asked in the middle.
    for (; x < filled; x++, at += 4) {
      sum += <f64>f32.load(at + ahead)
      f32.store(target + (<usize>x << 2), <f32>(sum * f64.load(shares + (<usize>x << 3))))
    }
    for (; x < full; x++, at += 4) {
      sum += <f64>f32.load(at + ahead) - <f64>f32.load(at - behind)
      f32.store(target + (<usize>x << 2), <f32>(sum * f64.load(shares + (<usize>x << 3))))
    }
    for (; x < width; x++, at += 4) {
      if (x > radius) sum -= <f64>f32.load(at - behind)
      f32.store(target + (<usize>x << 2), <f32>(sum * f64.load(shares + (<usize>x << 3))))
    }
    source += <usize>width << 2
    target += <usize>width << 2
  }
}

/** The same down the columns, a row at a time, in the order in which they lie in memory. `sums`: room for a row of doubles. */
export function boxMeanColumns(source: usize, target: usize, width: i32, height: i32, radius: i32, shares: usize, sums: usize): void {
  const rowBytes: usize = <usize>width << 2
  memory.fill(sums, 0, <usize>width << 3)
  for (let y = 0; y < min(radius, height); y++) addRow(source + <usize>y * rowBytes, sums, width, false)
  for (let y = 0; y < height; y++) {
    const coming = source + <usize>(y + radius) * rowBytes
    const going = source + <usize>(y - radius - 1) * rowBytes
    const comes = y + radius < height
    const goes = y > radius
    if (comes && goes) slideRow(coming, going, sums, width)
    else if (comes) addRow(coming, sums, width, false)
    else if (goes) addRow(going, sums, width, true)
    const share = f64.load(shares + (<usize>y << 3))
    const shares2 = f64x2.splat(share)
    let x = 0
    for (; x + 4 <= width; x += 4) {
      const at = sums + (<usize>x << 3)
      const low = f32x4.demote_f64x2_zero(f64x2.mul(v128.load(at), shares2))
      const high = f32x4.demote_f64x2_zero(f64x2.mul(v128.load(at, 16), shares2))
      v128.store(target + (<usize>x << 2), v128.shuffle<f32>(low, high, 0, 1, 4, 5))
    }
    for (; x < width; x++) f32.store(target + (<usize>x << 2), <f32>(f64.load(sums + (<usize>x << 3)) * share))
    target += rowBytes
  }
}

/** A row of floats on top of a row of sums, or `taken` off them. */
// @ts-ignore: decorator
@inline
function addRow(row: usize, sums: usize, width: i32, taken: bool): void {
  let x = 0
  for (; x + 2 <= width; x += 2) {
    const at = sums + (<usize>x << 3)
    const floats = pair(row + (<usize>x << 2))
    v128.store(at, taken ? f64x2.sub(v128.load(at), floats) : f64x2.add(v128.load(at), floats))
  }
  for (; x < width; x++) {
    const at = sums + (<usize>x << 3)
    const float = <f64>f32.load(row + (<usize>x << 2))
    f64.store(at, taken ? f64.load(at) - float : f64.load(at) + float)
  }
}

// @ts-ignore: decorator
@inline
function slideRow(coming: usize, going: usize, sums: usize, width: i32): void {
  let x = 0
  for (; x + 2 <= width; x += 2) {
    const at = sums + (<usize>x << 3)
    const from: usize = <usize>x << 2
    v128.store(at, f64x2.sub(f64x2.add(v128.load(at), pair(coming + from)), pair(going + from)))
  }
  for (; x < width; x++) {
    const at = sums + (<usize>x << 3)
    const from: usize = <usize>x << 2
    f64.store(at, f64.load(at) + <f64>f32.load(coming + from) - <f64>f32.load(going + from))
  }
}

/**
 * The coefficients of a guided filter, before they are averaged (He, Sun & Tang 2010, equations 5 and 6), from means of windows: of the
 * guide, of its square, of the input, and of guide times input. `sudden`: with the share of the variance in variance + epsilon raised to its
 * third power, by odds. `a` and `b`, of `count` floats, may lie in the place of the means; all planes in whole vectors.
 */
export function guidedSlopes(
  guide: usize,
  square: usize,
  input: usize,
  product: usize,
  a: usize,
  b: usize,
  count: i32,
  epsilon: f64,
  sudden: bool,
): void {
  const flat = f64x2.splat(epsilon)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 8) {
    const g = pair(guide + i)
    const p = pair(input + i)
    const spread = f64x2.max(f64x2.sub(pair(square + i), f64x2.mul(g, g)), k(16))
    const common = f64x2.sub(pair(product + i), f64x2.mul(g, p))
    let slope: v128
    if (sudden) {
      const ratio = f64x2.div(spread, flat)
      const raised = f64x2.mul(f64x2.mul(ratio, ratio), ratio)
      slope = f64x2.mul(f64x2.div(common, f64x2.add(spread, k(0))), f64x2.div(raised, f64x2.add(k(8), raised)))
    } else slope = f64x2.div(common, f64x2.add(spread, flat))
    v128.store64_lane(a + i, f32x4.demote_f64x2_zero(slope), 0)
    v128.store64_lane(b + i, f32x4.demote_f64x2_zero(f64x2.sub(p, f64x2.mul(slope, g))), 0)
  }
}

/** A float's bits in an order that, taken as signed integers, is the floats' own: negative ones are stored as magnitudes, and turned round. */
// @ts-ignore: decorator
@inline
function orderOf(bits: i32): i32 {
  return bits ^ ((bits >> 31) & 0x7fffffff)
}

/** Counts floats by the upper 16 bits of their order: into `starts`, 65,537 integers, of which each becomes how many floats lie below its bucket. */
export function countBuckets(values: usize, count: i32, starts: usize): void {
  memory.fill(starts, 0, 65537 << 2)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const bucket = (orderOf(i32.load(values + i)) >> 16) + 32768
    const at = starts + (<usize>bucket << 2)
    i32.store(at, i32.load(at, 4) + 1, 4)
  }
  let sum = 0
  for (let at: usize = starts, end: usize = starts + (65537 << 2); at < end; at += 4) {
    sum += i32.load(at)
    i32.store(at, sum)
  }
}

/**
 * Floats of the buckets from `low` to `high`, one behind the other; returns how many. `count` may be any, `values` hold whole vectors, and
 * `target` has room for one more than there are.
 */
export function gatherBuckets(values: usize, count: i32, low: i32, high: i32, target: usize): i32 {
  const first = (low - 32768) << 16
  const last = ((high - 32768) << 16) | 0xffff
  const magnitude = i32x4.splat(0x7fffffff)
  const firsts = i32x4.splat(first)
  const lasts = i32x4.splat(last)
  let to = target
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const bits = v128.load(values + i)
    const order = v128.xor(bits, v128.and(i32x4.shr_s(bits, 31), magnitude))
    // Hardly any float is wanted: four are asked at a time.
    if (!v128.any_true(v128.and(i32x4.ge_s(order, firsts), i32x4.le_s(order, lasts)))) continue
    for (let at = i; at < min(i + 16, end); at += 4) {
      const one = i32.load(values + at)
      i32.store(to, one)
      to += <usize>(i32(orderOf(one) >= first) & i32(orderOf(one) <= last)) << 2
    }
  }
  return <i32>((to - target) >> 2)
}

/** The float that would stand at `rank` if `count` of them were sorted; changes their order (Hoare 1961, FIND). */
export function floatOfRank(values: usize, count: i32, rank: i32): f32 {
  let left = values
  let right = values + (<usize>(count - 1) << 2)
  const wanted = values + (<usize>rank << 2)
  while (left < right) {
    const pivot = f32.load(wanted)
    let i = left
    let j = right
    while (i <= j) {
      let low = f32.load(i)
      while (low < pivot) {
        i += 4
        low = f32.load(i)
      }
      let high = f32.load(j)
      while (high > pivot) {
        j -= 4
        high = f32.load(j)
      }
      if (i > j) break
      f32.store(i, high)
      f32.store(j, low)
      i += 4
      j -= 4
    }
    if (j < wanted) left = i
    if (wanted < i) right = j
  }
  return f32.load(wanted)
}

/** How many pixels have no channel below a limit. `count` may be any, the planes hold whole vectors. */
export function countAbove(r: usize, g: usize, b: usize, count: i32, limit: f32): i32 {
  const limits = f32x4.splat(limit)
  let found = 0
  for (let i = 0; i < count; i += 4) {
    const at: usize = <usize>i << 2
    const least = f32x4.pmin(f32x4.pmin(v128.load(r + at), v128.load(g + at)), v128.load(b + at))
    let lanes = i32x4.bitmask(f32x4.ge(least, limits))
    if (count - i < 4) lanes &= (1 << (count - i)) - 1
    found += popcnt(lanes)
  }
  return found
}
