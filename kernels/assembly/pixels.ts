// Between interleaved integers at rest and planes of floats in flight. One row a call; rows are
// processed in whole vectors of 4 pixels, so buffers need 16 bytes of slack behind their last row.
import { matrix } from './colour'

/** The tables of `decodeRows8`, red, green, blue, at a place that is known when a pixel is looked up: that spares a sum each time. */
const columns = memory.data(12288, 16)

/**
 * Rows of interleaved 8-bit RGB, `rowBytes` apart → planes, `stride` floats a row. `tables` holds three tables of 256 vectors: the linear
 * value of the code times the channel's matrix column (r, g, b, 0), so that a pixel is two additions.
 */
export function decodeRows8(codes: usize, rowBytes: usize, width: i32, rows: i32, tables: usize, r: usize, g: usize, b: usize, stride: i32): void {
  memory.copy(columns, tables, 12288)
  const step: usize = <usize>stride << 2
  for (let y = 0; y < rows; y++) {
    decodeRow8(codes, width, r, g, b)
    codes += rowBytes
    r += step
    g += step
    b += step
  }
}

// @ts-ignore: decorator
@inline
function decodeRow8(source: usize, width: i32, r: usize, g: usize, b: usize): void {
  for (let x = 0; x < width; x += 4) {
    const p0 = pixel8(source)
    const p1 = pixel8(source + 3)
    const p2 = pixel8(source + 6)
    const p3 = pixel8(source + 9)
    const lo01 = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5)
    const lo23 = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5)
    v128.store(r, v128.shuffle<f32>(lo01, lo23, 0, 1, 4, 5))
    v128.store(g, v128.shuffle<f32>(lo01, lo23, 2, 3, 6, 7))
    const hi01 = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7)
    const hi23 = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7)
    v128.store(b, v128.shuffle<f32>(hi01, hi23, 0, 1, 4, 5))
    source += 12
    r += 16
    g += 16
    b += 16
  }
}

// @ts-ignore: decorator
@inline
function pixel8(at: usize): v128 {
  return f32x4.add(
    f32x4.add(v128.load(<usize>load<u8>(at) << 4, columns), v128.load(<usize>load<u8>(at, 1) << 4, columns + 4096)),
    v128.load(<usize>load<u8>(at, 2) << 4, columns + 8192),
  )
}

/** Any two of 256 numbers side by side: the first and the second, 65,536 pairs, each at first + 256·second. */
export function pairsOf(firsts: usize, seconds: usize, target: usize): void {
  for (let second: usize = 0; second < 1024; second += 4)
    for (let first: usize = 0; first < 1024; first += 4) {
      f32.store(target, f32.load(firsts + first))
      f32.store(target, f32.load(seconds + second), 4)
      target += 8
    }
}

// @ts-ignore: decorator
@inline
function lookUp(table: usize, at: usize): v128 {
  return v128.load64_zero(table + (<usize>load<u16>(at) << 3))
}

/** Sums of pixels (r, g, b, …) of two rows of a cell. */
// @ts-ignore: decorator
@inline
function sumOfTwoRows(upper: usize, lower: usize, width: i32, redGreens: usize, blueReds: usize, greenBlues: usize): v128 {
  let redGreen = f32x4.splat(0)
  let blueRed = f32x4.splat(0)
  let greenBlue = f32x4.splat(0)
  let lowerRedGreen = f32x4.splat(0)
  let lowerBlueRed = f32x4.splat(0)
  let lowerGreenBlue = f32x4.splat(0)
  let x = 1
  for (; x < width; x += 2) {
    redGreen = f32x4.add(redGreen, lookUp(redGreens, upper))
    blueRed = f32x4.add(blueRed, lookUp(blueReds, upper + 2))
    greenBlue = f32x4.add(greenBlue, lookUp(greenBlues, upper + 4))
    lowerRedGreen = f32x4.add(lowerRedGreen, lookUp(redGreens, lower))
    lowerBlueRed = f32x4.add(lowerBlueRed, lookUp(blueReds, lower + 2))
    lowerGreenBlue = f32x4.add(lowerGreenBlue, lookUp(greenBlues, lower + 4))
    upper += 6
    lower += 6
  }
  if (x == width) {
    redGreen = f32x4.add(redGreen, lookUp(redGreens, upper))
    lowerRedGreen = f32x4.add(lowerRedGreen, lookUp(redGreens, lower))
    // A blue by itself: the first of a pair.
    blueRed = f32x4.add(blueRed, v128.load32_zero(blueReds + (<usize>load<u8>(upper, 2) << 3)))
    lowerBlueRed = f32x4.add(lowerBlueRed, v128.load32_zero(blueReds + (<usize>load<u8>(lower, 2) << 3)))
  }
  redGreen = f32x4.add(redGreen, lowerRedGreen)
  blueRed = f32x4.add(blueRed, lowerBlueRed)
  greenBlue = f32x4.add(greenBlue, lowerGreenBlue)
  // Red, green, blue, nothing; and what the others hold of red, green and blue.
  const first = v128.shuffle<f32>(redGreen, blueRed, 0, 1, 4, 2)
  return f32x4.add(first, v128.shuffle<f32>(blueRed, greenBlue, 1, 4, 5, 2))
}

/**
 * Rows of interleaved 8-bit RGB reduced to one row of three planes: means over cells, of which cell n reaches from pixel ends[n − 1] (0 for
 * the first) to before ends[n]. Codes are looked up two at a time, in tables as `pairsOf` makes them, of a red and a green, a blue and a red,
 * a green and a blue. `shares`: one over how many pixels wide each cell is; `columns`: those of a matrix that the means are put through, four
 * floats each.
 */
export function reduceRows8(
  codes: usize,
  rowBytes: usize,
  rows: i32,
  cells: i32,
  ends: usize,
  shares: usize,
  redGreens: usize,
  blueReds: usize,
  greenBlues: usize,
  columns: usize,
  r: usize,
  g: usize,
  b: usize,
): void {
  const first = v128.load(columns)
  const second = v128.load(columns, 16)
  const third = v128.load(columns, 32)
  const share: f32 = 1 / <f32>rows
  let x = 0
  for (let cell = 0; cell < cells; cell++) {
    const width = i32.load(ends) - x
    let row = codes + <usize>x * 3
    let sum = f32x4.splat(0)
    // All rows of a cell before the next one: a loop of always the same length is foreseen.
    let y = 1
    for (; y < rows; y += 2) {
      sum = f32x4.add(sum, sumOfTwoRows(row, row + rowBytes, width, redGreens, blueReds, greenBlues))
      row += 2 * rowBytes
    }
    if (y == rows) sum = f32x4.add(sum, f32x4.mul(sumOfTwoRows(row, row, width, redGreens, blueReds, greenBlues), f32x4.splat(0.5)))
    const mean = f32x4.mul(sum, f32x4.splat(f32.load(shares) * share))
    const red = f32x4.mul(first, v128.shuffle<f32>(mean, mean, 0, 0, 0, 0))
    const green = f32x4.mul(second, v128.shuffle<f32>(mean, mean, 1, 1, 1, 1))
    const pixel = f32x4.add(f32x4.add(red, green), f32x4.mul(third, v128.shuffle<f32>(mean, mean, 2, 2, 2, 2)))
    f32.store(r, f32x4.extract_lane(pixel, 0))
    f32.store(g, f32x4.extract_lane(pixel, 1))
    f32.store(b, f32x4.extract_lane(pixel, 2))
    x += width
    ends += 4
    shares += 4
    r += 4
    g += 4
    b += 4
  }
}

/** Interleaved 16-bit RGB → planes. `tables`: three tables of 65536 linear floats; `m`: 3×3 floats. Whole vectors are read and written. */
export function decodeRow16(source: usize, width: i32, tables: usize, m: usize, r: usize, g: usize, b: usize): void {
  const greens = tables + 262144
  const blues = tables + 524288
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
    v128.store(r + i, everySixth(source, tables))
    v128.store(g + i, everySixth(source + 2, greens))
    v128.store(b + i, everySixth(source + 4, blues))
    source += 24
  }
  matrix(r, g, b, width, m)
}

/** What four codes, six bytes apart, stand for. */
// @ts-ignore: decorator
@inline
function everySixth(at: usize, table: usize): v128 {
  const first = v128.load32_zero(table + (<usize>load<u16>(at) << 2))
  const second = v128.load32_lane(table + (<usize>load<u16>(at, 6) << 2), first, 1)
  const third = v128.load32_lane(table + (<usize>load<u16>(at, 12) << 2), second, 2)
  return v128.load32_lane(table + (<usize>load<u16>(at, 18) << 2), third, 3)
}

/** 0: 255, 1: 2^23, whose sum with a small float holds its rounded value in the last bits, 2: 1/1024, 3: 1/2048 − ½ */
const table = memory.data<f32>([255.0, 8388608.0, 0.0009765625, -0.49951171875])
/** 0, 1: multipliers of the mix, 2: ten bits, 3: bits of 2^23, 4: the same less an opaque alpha */
const bits = memory.data<i32>([0x7feb352d, i32(0x846ca68b), 0x3ff, 0x4b000000, 0x4c000000])

/** 32 well-mixed bits from a place in the picture (multiply and xor-shift): ten for each channel's rounding. */
// @ts-ignore: decorator
@inline
function placeNoise(seed: v128, first: v128, second: v128): v128 {
  let h = v128.xor(seed, i32x4.shr_u(seed, 16))
  h = i32x4.mul(h, first)
  h = v128.xor(h, i32x4.shr_u(h, 15))
  h = i32x4.mul(h, second)
  return v128.xor(h, i32x4.shr_u(h, 16))
}

/** A shift of −½ … ½ from the last ten bits. */
// @ts-ignore: decorator
@inline
function shiftOf(noise: v128, tenBits: v128, perShift: v128, least: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(v128.and(noise, tenBits)), perShift), least)
}

/** The nearest code of 0–255, in the last bits of a float; the order of pmax and pmin sends not-a-number to 0. */
// @ts-ignore: decorator
@inline
function code8(encoded: v128, shift: v128, most: v128, rounding: v128): v128 {
  const scaled = f32x4.add(f32x4.mul(encoded, most), shift)
  return f32x4.add(f32x4.pmin(f32x4.pmax(f32x4.splat(0), scaled), most), rounding)
}

/**
 * Planes of encoded values → interleaved 8-bit, `channels` 3 (RGB) or 4 (RGBA, opaque). Not a number becomes 0.
 * With `dither`, each pixel's values are shifted by up to half a code before rounding, by its place (x, y) alone.
 */
export function encodeRow8(r: usize, g: usize, b: usize, width: i32, target: usize, channels: i32, x: i32, y: i32, dither: i32): void {
  let place = i32x4.add(i32x4.mul(i32x4.add(i32x4.splat(x), i32x4(0, 1, 2, 3)), i32x4.splat(i32(0x9e3779b1))), i32x4.splat(y * i32(0x85ebca77)))
  const stride = i32x4.splat(4 * i32(0x9e3779b1))
  // In locals: engines do not take loads out of a loop that stores.
  const most = v128.load32_splat(table)
  const rounding = v128.load32_splat(table + 4)
  const perShift = v128.load32_splat(table + 8)
  const least = v128.load32_splat(table + 12)
  const first = v128.load32_splat(bits)
  const second = v128.load32_splat(bits + 4)
  const tenBits = v128.load32_splat(bits + 8)
  const beside = v128.load32_splat(bits + (channels == 4 ? 16 : 12))
  let shiftRed = f32x4.splat(0)
  let shiftGreen = shiftRed
  let shiftBlue = shiftRed
  for (let i = 0; i < width; i += 4) {
    if (dither) {
      const noise = placeNoise(place, first, second)
      shiftRed = shiftOf(noise, tenBits, perShift, least)
      shiftGreen = shiftOf(i32x4.shr_u(noise, 10), tenBits, perShift, least)
      shiftBlue = shiftOf(i32x4.shr_u(noise, 20), tenBits, perShift, least)
      place = i32x4.add(place, stride)
    }
    const red = code8(v128.load(r), shiftRed, most, rounding)
    const green = code8(v128.load(g), shiftGreen, most, rounding)
    const blue = code8(v128.load(b), shiftBlue, most, rounding)
    // Of three times the bits of 2^23 the shifts leave one.
    const packed = i32x4.sub(i32x4.add(i32x4.add(red, i32x4.shl(green, 8)), i32x4.shl(blue, 16)), beside)
    if (channels == 4) {
      v128.store(target, packed)
      target += 16
    } else {
      v128.store(target, v128.shuffle<u8>(packed, packed, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 3, 3, 3, 3))
      target += 12
    }
    r += 16
    g += 16
    b += 16
  }
}
