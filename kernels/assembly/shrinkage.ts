// Sliding 8 × 8 cosine transform with hard thresholds, for noise reduction.

/** √2·sin(π/8), √2·cos(π/8), sin and cos of 3π/16 and of π/16, √2, and what keeps 0 / 0 away */
const table = memory.data<f32>([0.54119610, 1.30656296, 0.55557023, 0.83146961, 0.19509032, 0.98078528, 1.41421356, 1e-20])
/** Eight vectors on their way through a turn. */
const corner = memory.data(128, 16)
/** One block's coefficients. */
const block = memory.data(256, 16)
const pilotBlock = memory.data(256, 16)

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
function forward(from: usize, step: usize, to: usize): void {
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

/** The transpose of `forward`, which is its inverse but for a factor of 8, times `weight`, added to vectors `step` bytes apart. */
// @ts-ignore: decorator
@inline
function backwardAdd(from: usize, to: usize, step: usize, weight: v128): void {
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
  addTo(to, f32x4.add(a0, d0), weight)
  addTo(to + 7 * step, f32x4.sub(a0, d0), weight)
  addTo(to + 3 * step, f32x4.add(a3, d3), weight)
  addTo(to + 4 * step, f32x4.sub(a3, d3), weight)
  const d1 = sum2(c(4), q, c(5), r)
  const d2 = difference2(c(5), q, c(4), r)
  addTo(to + step, f32x4.add(a1, d1), weight)
  addTo(to + 6 * step, f32x4.sub(a1, d1), weight)
  addTo(to + 2 * step, f32x4.add(a2, d2), weight)
  addTo(to + 5 * step, f32x4.sub(a2, d2), weight)
}

/** The same without weight, to eight vectors in a row. */
// @ts-ignore: decorator
@inline
function backward(from: usize, to: usize): void {
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
  v128.store(to, f32x4.add(a0, d0))
  v128.store(to, f32x4.sub(a0, d0), 112)
  v128.store(to, f32x4.add(a3, d3), 48)
  v128.store(to, f32x4.sub(a3, d3), 64)
  const d1 = sum2(c(4), q, c(5), r)
  const d2 = difference2(c(5), q, c(4), r)
  v128.store(to, f32x4.add(a1, d1), 16)
  v128.store(to, f32x4.sub(a1, d1), 96)
  v128.store(to, f32x4.add(a2, d2), 32)
  v128.store(to, f32x4.sub(a2, d2), 80)
}

// @ts-ignore: decorator
@inline
function addTo(to: usize, value: v128, weight: v128): void {
  v128.store(to, f32x4.add(v128.load(to), f32x4.mul(value, weight)))
}

/** A 4 × 4 corner, rows and columns changed. */
// @ts-ignore: decorator
@inline
function turn(from: usize, fromStep: usize, to: usize, toStep: usize): void {
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

/** What does not stand out of the noise becomes 0. Returns a lane of ones for each coefficient that stays. */
// @ts-ignore: decorator
@inline
function shrinkOne(at: usize, thresholds: usize, factor: v128): v128 {
  const value = v128.load(at)
  const stays = f32x4.gt(f32x4.abs(value), f32x4.mul(v128.load(thresholds), factor))
  v128.store(at, v128.and(value, stays))
  return stays
}

/** Eight vectors of coefficients. Returns, lane by lane, minus how many stay. */
// @ts-ignore: decorator
@inline
function shrink(at: usize, thresholds: usize, factor: v128): v128 {
  const first = i32x4.add(shrinkOne(at, thresholds, factor), shrinkOne(at + 16, thresholds + 32, factor))
  const second = i32x4.add(shrinkOne(at + 32, thresholds + 64, factor), shrinkOne(at + 48, thresholds + 96, factor))
  const third = i32x4.add(shrinkOne(at + 64, thresholds + 128, factor), shrinkOne(at + 80, thresholds + 160, factor))
  const fourth = i32x4.add(shrinkOne(at + 96, thresholds + 192, factor), shrinkOne(at + 112, thresholds + 224, factor))
  return i32x4.add(i32x4.add(first, second), i32x4.add(third, fourth))
}

/** Coefficients times p² / (p² + σ²), p those of a first estimate; returns the sum of the squared gains, lane by lane. */
// @ts-ignore: decorator
@inline
function weighOne(at: usize, pilot: usize, deviations: usize, factor: v128): v128 {
  const guess = v128.load(pilot)
  const noise = f32x4.mul(v128.load(deviations), factor)
  const power = f32x4.mul(guess, guess)
  const gain = f32x4.div(power, f32x4.add(f32x4.add(power, f32x4.mul(noise, noise)), c(7)))
  v128.store(at, f32x4.mul(v128.load(at), gain))
  return f32x4.mul(gain, gain)
}

// @ts-ignore: decorator
@inline
function weigh(at: usize, pilot: usize, deviations: usize, factor: v128): v128 {
  const first = f32x4.add(weighOne(at, pilot, deviations, factor), weighOne(at + 16, pilot + 16, deviations + 32, factor))
  const second = f32x4.add(weighOne(at + 32, pilot + 32, deviations + 64, factor), weighOne(at + 48, pilot + 48, deviations + 96, factor))
  const third = f32x4.add(weighOne(at + 64, pilot + 64, deviations + 128, factor), weighOne(at + 80, pilot + 80, deviations + 160, factor))
  const fourth = f32x4.add(weighOne(at + 96, pilot + 96, deviations + 192, factor), weighOne(at + 112, pilot + 112, deviations + 224, factor))
  return f32x4.add(f32x4.add(first, second), f32x4.add(third, fourth))
}

/** Spans of the factor table over brightness 0 … 1. */
const factorSpans: i32 = 16

/** Noise relative to the thresholds' own, at the brightness of the block: four of its pixels, and the table. */
// @ts-ignore: decorator
@inline
function factorAt(guide: usize, rowBytes: usize, factors: usize): f32 {
  const upper = guide + 2 * rowBytes
  const lower = guide + 5 * rowBytes
  const mean = (f32.load(upper, 8) + f32.load(upper, 20) + f32.load(lower, 8) + f32.load(lower, 20)) * 0.25
  const place = Mathf.min(Mathf.max(mean, 0), 1) * <f32>factorSpans
  const index = <i32>Mathf.min(place, <f32>factorSpans - 1)
  const at = factors + (<usize>index << 2)
  return f32.load(at) + (f32.load(at, 4) - f32.load(at)) * (place - <f32>index)
}

// @ts-ignore: decorator
@inline
function sumOfLanes(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}

/** Transforms down the columns of a band of eight rows: eight floats a column. */
// @ts-ignore: decorator
@inline
function bandSpectra(source: usize, rowBytes: usize, columns: i32, spectra: usize): void {
  for (let x = 0; x < columns; x += 4) {
    forward(source + (<usize>x << 2), rowBytes, corner)
    turn(corner, 16, spectra + (<usize>x << 5), 32)
    turn(corner + 64, 16, spectra + (<usize>x << 5) + 16, 32)
  }
}

/** A block's pixels and its weight to the columns it covers. */
// @ts-ignore: decorator
@inline
function addBlock(weight: v128, shrunk: usize, weighed: usize): void {
  backwardAdd(block, shrunk, 32, weight)
  backwardAdd(block + 128, shrunk + 16, 32, weight)
  v128.store(weighed, f32x4.add(v128.load(weighed), weight))
  v128.store(weighed, f32x4.add(v128.load(weighed, 16), weight), 16)
}

// @ts-ignore: decorator
@inline
function shrinkBlock(spectra: usize, thresholds: usize, factor: v128, shrunk: usize, weighed: usize): void {
  forward(spectra, 32, block)
  let kept = shrink(block, thresholds, factor)
  forward(spectra + 16, 32, block + 128)
  kept = i32x4.add(kept, shrink(block + 128, thresholds + 16, factor))
  const count = i32x4.extract_lane(kept, 0) + i32x4.extract_lane(kept, 1) + i32x4.extract_lane(kept, 2) + i32x4.extract_lane(kept, 3)
  addBlock(f32x4.splat(1 / <f32>max(-count, 1)), shrunk, weighed)
}

/** The same with gains from a first estimate. */
// @ts-ignore: decorator
@inline
function weighBlock(spectra: usize, pilotSpectra: usize, deviations: usize, factor: v128, shrunk: usize, weighed: usize): void {
  forward(spectra, 32, block)
  forward(pilotSpectra, 32, pilotBlock)
  let gains = weigh(block, pilotBlock, deviations, factor)
  forward(spectra + 16, 32, block + 128)
  forward(pilotSpectra + 16, 32, pilotBlock + 128)
  gains = f32x4.add(gains, weigh(block + 128, pilotBlock + 128, deviations + 16, factor))
  addBlock(f32x4.splat(1 / Mathf.max(sumOfLanes(gains), 1)), shrunk, weighed)
}

/** Columns of a band that are worked on at a time: what is made on the way stays in the first cache. */
const pieceColumns: i32 = 256
/** A block that begins in a piece ends in the next. */
const pieceBytes: usize = (256 + 8) * 32
const overlapBytes: usize = 8 * 32

/** What becomes of the squared scale of the transform there and back. */
const scaleBack: f32 = 1.0 / 64

/**
 * Four finished columns of a band, back to pixels. Rows that no later band reaches go to the target, divided by the weight they
 * gathered; the others are carried on to the next band. A row's weight is the same in all rows of a step.
 */
// @ts-ignore: decorator
@inline
function finishColumns(shrunk: usize, weighed: usize, step: i32, carry: usize, carriedWeights: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  turn(shrunk, 32, corner, 16)
  turn(shrunk + 16, 32, corner + 64, 16)
  backward(corner, block)
  const weight = v128.load(weighed)
  const factor = f32x4.div(f32x4.splat(scaleBack), f32x4.add(weight, v128.load(carriedWeights)))
  if (step == 8) {
    for (let row = 0; row < 8; row++) {
      v128.store(target, f32x4.mul(v128.load(block + (row << 4)), factor))
      target += targetBytes
    }
  } else if (step == 4) {
    v128.store(carriedWeights, weight)
    for (let row = 0; row < 4; row++) {
      v128.store(target, f32x4.mul(f32x4.add(v128.load(block + (row << 4)), v128.load(carry)), factor))
      v128.store(carry, v128.load(block + (row << 4), 64))
      target += targetBytes
      carry += lineBytes
    }
  } else {
    v128.store(carriedWeights, f32x4.add(v128.load(carriedWeights + lineBytes), weight))
    v128.store(carriedWeights + lineBytes, f32x4.add(v128.load(carriedWeights + 2 * lineBytes), weight))
    v128.store(carriedWeights + 2 * lineBytes, weight)
    for (let row = 0; row < 2; row++) {
      v128.store(target, f32x4.mul(f32x4.add(v128.load(block + (row << 4)), v128.load(carry)), factor))
      const second = f32x4.add(v128.load(block + (row << 4), 32), v128.load(carry + 2 * lineBytes))
      const third = f32x4.add(v128.load(block + (row << 4), 64), v128.load(carry + 4 * lineBytes))
      v128.store(carry, second)
      v128.store(carry + 2 * lineBytes, third)
      v128.store(carry + 4 * lineBytes, v128.load(block + (row << 4), 96))
      target += targetBytes
      carry += lineBytes
    }
  }
}

/**
 * All bands of a window from top to bottom. `scratch` holds what is carried from band to band (6 + 3 lines of the window's
 * width), then what a piece needs. `pilot` 0: hard thresholds in `amounts`; otherwise gains from it and deviations in `amounts`.
 */
// @ts-ignore: decorator
@inline
function runBands(source: usize, guide: usize, stride: i32, pilot: usize, pilotStride: i32, target: usize, targetStride: i32, across: i32, down: i32, step: i32, amounts: usize, factors: usize, scratch: usize, weighs: bool): void {
  const rowBytes: usize = <usize>stride << 2
  const pilotBytes: usize = <usize>pilotStride << 2
  const targetBytes: usize = <usize>targetStride << 2
  const columns = ((across - 1) * step + 8 + 3) & ~3
  const lineBytes: usize = <usize>columns << 2
  const carriedWeights = scratch + 6 * lineBytes
  const spectra = carriedWeights + 3 * lineBytes
  const shrunk = spectra + pieceBytes
  const pilotSpectra = shrunk + pieceBytes
  const weighed = pilotSpectra + pieceBytes
  memory.fill(scratch, 0, 9 * lineBytes)
  for (let j = 0; j < down; j++) {
    memory.fill(shrunk, 0, pieceBytes)
    memory.fill(weighed, 0, pieceBytes >> 3)
    let x = 0
    for (let left = 0; left < columns; left += pieceColumns) {
      const at: usize = <usize>left << 2
      const end = min(left + pieceColumns, columns)
      const seen = min(left + pieceColumns + 8, columns) - left
      bandSpectra(source + at, rowBytes, seen, spectra)
      if (weighs) bandSpectra(pilot + at, pilotBytes, seen, pilotSpectra)
      for (const stop = min(end, across * step); x < stop; x += step) {
        const place: usize = <usize>(x - left)
        const factor = f32x4.splat(factorAt(guide + (<usize>x << 2), rowBytes, factors))
        if (weighs) weighBlock(spectra + (place << 5), pilotSpectra + (place << 5), amounts, factor, shrunk + (place << 5), weighed + (place << 2))
        else shrinkBlock(spectra + (place << 5), amounts, factor, shrunk + (place << 5), weighed + (place << 2))
      }
      for (let i: usize = 0, width: usize = <usize>(end - left); i < width; i += 4)
        finishColumns(shrunk + (i << 5), weighed + (i << 2), step, scratch + at + (i << 2), carriedWeights + at + (i << 2), lineBytes, target + at + (i << 2), targetBytes)
      memory.copy(shrunk, shrunk + (pieceBytes - overlapBytes), overlapBytes)
      memory.fill(shrunk + overlapBytes, 0, pieceBytes - overlapBytes)
      memory.copy(weighed, weighed + ((pieceBytes - overlapBytes) >> 3), overlapBytes >> 3)
      memory.fill(weighed + (overlapBytes >> 3), 0, (pieceBytes - overlapBytes) >> 3)
    }
    source += <usize>step * rowBytes
    guide += <usize>step * rowBytes
    pilot += <usize>step * pilotBytes
    target += <usize>step * targetBytes
  }
  for (let row = 0; row < 8 - step; row++) {
    const carry = scratch + <usize>row * lineBytes
    const weights = carriedWeights + <usize>(row / step) * lineBytes
    for (let i: usize = 0; i < lineBytes; i += 16)
      v128.store(target + i, f32x4.div(f32x4.mul(v128.load(carry + i), f32x4.splat(scaleBack)), v128.load(weights + i)))
    target += targetBytes
  }
}

/**
 * Every pixel of a window from the shrunk blocks that cover it: their mean, where blocks that need few coefficients weigh more (as in
 * Dabov et al. 2007). Blocks begin at multiples of `step` (2, 4 or 8) of the source, whose stride the guide shares. `thresholds`: 64
 * floats, 8 times those of an orthonormal transform, frequencies down a column first; `factors`: 17 floats over the guide's brightness;
 * `scratch`: 9 floats a column and 6600 more.
 */
export function shrinkBlocks(source: usize, guide: usize, stride: i32, target: usize, targetStride: i32, blocksAcross: i32, blocksDown: i32, step: i32, thresholds: usize, factors: usize, scratch: usize): void {
  runBands(source, guide, stride, 0, 0, target, targetStride, blocksAcross, blocksDown, step, thresholds, factors, scratch, false)
}

/**
 * The same in a second pass (Wiener's gains from the first one's result, as in Dabov et al. 2007). `deviations`: 64 floats, 8 times
 * those of an orthonormal transform, 0 for what is never shrunk.
 */
export function weighBlocks(source: usize, guide: usize, stride: i32, pilot: usize, pilotStride: i32, target: usize, targetStride: i32, blocksAcross: i32, blocksDown: i32, step: i32, deviations: usize, factors: usize, scratch: usize): void {
  runBands(source, guide, stride, pilot, pilotStride, target, targetStride, blocksAcross, blocksDown, step, deviations, factors, scratch, true)
}

// @ts-ignore: decorator
@inline
function halved(upper: usize, lower: usize): v128 {
  const left = f32x4.add(v128.load(upper), v128.load(lower))
  const right = f32x4.add(v128.load(upper, 16), v128.load(lower, 16))
  const sum = f32x4.add(v128.shuffle<f32>(left, right, 0, 2, 4, 6), v128.shuffle<f32>(left, right, 1, 3, 5, 7))
  return f32x4.mul(sum, f32x4.splat(0.25))
}

/** Averages of 2 × 2 pixels, `width` × `height` of them. Strides in floats. Up to 3 pixels behind the width are touched. */
export function halvePlane(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
      v128.store(target + i, halved(source + 2 * i, source + 2 * i + rowBytes))
    source += 2 * rowBytes
    target += <usize>targetStride << 2
  }
}

/** target −= the averages of 2 × 2 pixels of the source. */
export function subtractHalved(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
      v128.store(target + i, f32x4.sub(v128.load(target + i), halved(source + 2 * i, source + 2 * i + rowBytes)))
    source += 2 * rowBytes
    target += <usize>targetStride << 2
  }
}

// @ts-ignore: decorator
@inline
function blend(near: usize, far: usize): v128 {
  return f32x4.add(f32x4.mul(v128.load(near), f32x4.splat(0.75)), f32x4.mul(v128.load(far), f32x4.splat(0.25)))
}

/**
 * Adds a plane of half the size, interpolated linearly, to `width` × `height` pixels. `source` is the half-size pixel over the first
 * four; those around it are read too. Strides in floats. Up to 7 pixels behind the width are touched.
 */
export function addDoubled(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const half: usize = <usize>sourceStride << 2
  const quarter = f32x4.splat(0.25)
  const most = f32x4.splat(0.75)
  for (let y = 0; y < height; y++) {
    const near = source + <usize>(y >> 1) * half
    const far = y & 1 ? near + half : near - half
    let to = target
    for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
      const before = blend(near + i - 4, far + i - 4)
      const here = blend(near + i, far + i)
      const behind = blend(near + i + 4, far + i + 4)
      const even = f32x4.add(f32x4.mul(here, most), f32x4.mul(before, quarter))
      const odd = f32x4.add(f32x4.mul(here, most), f32x4.mul(behind, quarter))
      v128.store(to, f32x4.add(v128.load(to), v128.shuffle<f32>(even, odd, 0, 4, 1, 5)))
      v128.store(to, f32x4.add(v128.load(to, 16), v128.shuffle<f32>(even, odd, 2, 6, 3, 7)), 16)
      to += 32
    }
    target += <usize>targetStride << 2
  }
}
