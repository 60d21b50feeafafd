// Sliding 8 × 8 cosine transform with hard thresholds, for noise reduction.
import { backward, forward, Lay, scaleOf, turn } from './cosine'

/** Eight vectors on their way through a turn. */
const corner = memory.data(128, 16)
/** One block's coefficients. */
const block = memory.data(256, 16)
const pilotBlock = memory.data(256, 16)
const scaledAmounts = memory.data(256, 16)
/** The window's eight numbers times a block's weight. */
const windowWeights = memory.data(32, 16)

/** 64 amounts, each times what the transform makes its frequency larger, `power` times over. */
// @ts-ignore: decorator
@inline
export function scaleAmounts(amounts: usize, to: usize, power: i32): void {
  for (let across = 0; across < 8; across++)
    for (let down = 0; down < 8; down++) {
      const at = <usize>(across * 8 + down) << 2
      const scale = scaleOf(across) * scaleOf(down)
      f32.store(to + at, f32.load(amounts + at) * (power == 2 ? scale * scale : scale))
    }
}

/** What does not stand out of the noise becomes 0. Returns a lane of ones for each coefficient that stays. */
// @ts-ignore: decorator
@inline
export function shrinkOne(at: usize, to: usize, thresholds: usize, factor: v128): v128 {
  const value = v128.load(at)
  const stays = f32x4.gt(f32x4.abs(value), f32x4.mul(v128.load(thresholds), factor))
  v128.store(to, v128.and(value, stays))
  return stays
}

/** Seven vectors of coefficients, all but the first of eight. Returns, lane by lane, minus how many stay. */
// @ts-ignore: decorator
@inline
export function shrinkRest(at: usize, to: usize, thresholds: usize, factor: v128): v128 {
  const first = shrinkOne(at + 16, to + 16, thresholds + 32, factor)
  const second = i32x4.add(shrinkOne(at + 32, to + 32, thresholds + 64, factor), shrinkOne(at + 48, to + 48, thresholds + 96, factor))
  const third = i32x4.add(shrinkOne(at + 64, to + 64, thresholds + 128, factor), shrinkOne(at + 80, to + 80, thresholds + 160, factor))
  const fourth = i32x4.add(shrinkOne(at + 96, to + 96, thresholds + 192, factor), shrinkOne(at + 112, to + 112, thresholds + 224, factor))
  return i32x4.add(i32x4.add(first, second), i32x4.add(third, fourth))
}

/** Coefficients times p² / (p² + σ²), p those of a first estimate; returns the sum of the squared gains, lane by lane. */
// @ts-ignore: decorator
@inline
function weighOne(at: usize, pilot: usize, variances: usize, factor: v128): v128 {
  const guess = v128.load(pilot)
  const power = f32x4.mul(guess, guess)
  const gain = f32x4.div(power, f32x4.add(power, f32x4.mul(v128.load(variances), factor)))
  v128.store(at, f32x4.mul(v128.load(at), gain))
  return f32x4.mul(gain, gain)
}

// @ts-ignore: decorator
@inline
export function weigh(at: usize, pilot: usize, variances: usize, factor: v128): v128 {
  const first = f32x4.add(weighOne(at, pilot, variances, factor), weighOne(at + 16, pilot + 16, variances + 32, factor))
  const second = f32x4.add(weighOne(at + 32, pilot + 32, variances + 64, factor), weighOne(at + 48, pilot + 48, variances + 96, factor))
  const third = f32x4.add(weighOne(at + 64, pilot + 64, variances + 128, factor), weighOne(at + 80, pilot + 80, variances + 160, factor))
  const fourth = f32x4.add(weighOne(at + 96, pilot + 96, variances + 192, factor), weighOne(at + 112, pilot + 112, variances + 224, factor))
  return f32x4.add(f32x4.add(first, second), f32x4.add(third, fourth))
}

/** Spans of the factor table over brightness 0 … 1. */
export const factorSpans: i32 = 16

/** Noise relative to the thresholds' own, at the brightness of the block: four of its pixels, and the table. */
// @ts-ignore: decorator
@inline
export function factorAt(guide: usize, rowBytes: usize, factors: usize): f32 {
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
export function sumOfLanes(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}

// @ts-ignore: decorator
@inline
export function sumOfCounts(v: v128): i32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + (i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3))
}

/** Transforms down the columns of a band of eight rows: eight floats a column. */
// @ts-ignore: decorator
@inline
function bandSpectra(source: usize, rowBytes: usize, columns: i32, spectra: usize): void {
  for (let x = 0; x < columns; x += 4) {
    const at = source + (<usize>x << 2)
    const to = spectra + (<usize>x << 5)
    forward(at, at + 4 * rowBytes, rowBytes, to, Lay.turned, 32, to + 16)
  }
}

// @ts-ignore: decorator
@inline
function addWeight(weight: f32, window: usize, weighed: usize): void {
  const left = f32x4.mul(v128.load(window), f32x4.splat(weight))
  const right = f32x4.mul(v128.load(window, 16), f32x4.splat(weight))
  v128.store(windowWeights, left)
  v128.store(windowWeights, right, 16)
  v128.store(weighed, f32x4.add(v128.load(weighed), left))
  v128.store(weighed, f32x4.add(v128.load(weighed, 16), right), 16)
}

/** Four of a block's eight frequencies down, where all eight across or, `rest` empty, only the first are left. */
// @ts-ignore: decorator
@inline
function addHalf(from: usize, first: v128, rest: v128, shrunk: usize): void {
  if (v128.any_true(rest)) backward(from, shrunk, 32, Lay.added, windowWeights)
  else if (v128.any_true(first)) {
    const even = v128.load(from)
    for (let at: usize = 0; at < 32; at += 4) {
      v128.store(shrunk, f32x4.add(v128.load(shrunk), f32x4.mul(even, v128.load32_splat(windowWeights + at))))
      shrunk += 32
    }
  }
}

/** In even places most of a block goes, and most of the way back is spared. */
// @ts-ignore: decorator
@inline
function shrinkBlock(spectra: usize, thresholds: usize, factor: v128, window: usize, shrunk: usize, weighed: usize): void {
  forward(spectra, spectra + 128, 32, block)
  forward(spectra + 16, spectra + 144, 32, block + 128)
  const first = shrinkOne(block, block, thresholds, factor)
  const rest = shrinkRest(block, block, thresholds, factor)
  const high = shrinkOne(block + 128, block + 128, thresholds + 16, factor)
  const highRest = shrinkRest(block + 128, block + 128, thresholds + 16, factor)
  const count = sumOfCounts(i32x4.add(i32x4.add(first, rest), i32x4.add(high, highRest)))
  const weight: f32 = 1 / <f32>max(-count, 1)
  addWeight(weight, window, weighed)
  addHalf(block, first, rest, shrunk)
  addHalf(block + 128, high, highRest, shrunk + 16)
}

/** The same with gains from a first estimate. */
// @ts-ignore: decorator
@inline
function weighBlock(spectra: usize, pilotSpectra: usize, variances: usize, factor: v128, window: usize, shrunk: usize, weighed: usize): void {
  forward(spectra, spectra + 128, 32, block)
  forward(pilotSpectra, pilotSpectra + 128, 32, pilotBlock)
  let gains = weigh(block, pilotBlock, variances, factor)
  forward(spectra + 16, spectra + 144, 32, block + 128)
  forward(pilotSpectra + 16, pilotSpectra + 144, 32, pilotBlock + 128)
  gains = f32x4.add(gains, weigh(block + 128, pilotBlock + 128, variances + 16, factor))
  const weight: f32 = 1 / Mathf.max(sumOfLanes(gains), 1)
  addWeight(weight, window, weighed)
  backward(block, shrunk, 32, Lay.added, windowWeights)
  backward(block + 128, shrunk + 16, 32, Lay.added, windowWeights)
}

/** Columns of a band that are worked on at a time: what is made on the way stays in the first cache. */
const pieceColumns: i32 = 256
/** A block that begins in a piece ends in the next. */
const pieceBytes: usize = (256 + 8) * 32
const overlapBytes: usize = 8 * 32

/** What becomes of the squared scale of the transform there and back. */
export const scaleBack: f32 = 1.0 / 64

/** One of the window's eight numbers. */
// @ts-ignore: decorator
@inline
export function windowAt(window: usize, place: usize): v128 {
  return v128.load32_splat(window + (place << 2))
}

// @ts-ignore: decorator
@inline
function windowed(window: usize, place: usize, value: v128): v128 {
  return f32x4.mul(windowAt(window, place), value)
}

// @ts-ignore: decorator
@inline
function blockRow(row: usize): v128 {
  return v128.load(block + (row << 4))
}

// @ts-ignore: decorator
@inline
function layRow(carried: v128, window: usize, row: usize, weights: v128, target: usize): void {
  const factor = f32x4.div(f32x4.splat(scaleBack), weights)
  v128.store(target, f32x4.mul(f32x4.add(windowed(window, row, blockRow(row)), carried), factor))
}

/**
 * Four finished columns of a band, back to pixels. Rows that no later band reaches go to the target, divided by the weights they
 * gathered; the others are carried on to the next band, and so are the weights of the bands.
 */
// @ts-ignore: decorator
@inline
function finishColumns(shrunk: usize, weighed: usize, step: i32, window: usize, carry: usize, carriedWeights: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  turn(shrunk, 32, corner, 16)
  turn(shrunk + 16, 32, corner + 64, 16)
  const weight = v128.load(weighed)
  const last = v128.load(carriedWeights)
  backward(corner, block, 16)
  if (step == 8) {
    for (let row: usize = 0; row < 8; row++) {
      layRow(f32x4.splat(0), window, row, windowed(window, row, weight), target)
      target += targetBytes
    }
  } else if (step == 4) {
    v128.store(carriedWeights, weight)
    for (let row: usize = 0; row < 4; row++) {
      layRow(v128.load(carry), window, row, f32x4.add(windowed(window, row, weight), windowed(window, row + 4, last)), target)
      v128.store(carry, windowed(window, row + 4, blockRow(row + 4)))
      target += targetBytes
      carry += lineBytes
    }
  } else {
    const second = v128.load(carriedWeights + lineBytes)
    const third = v128.load(carriedWeights + 2 * lineBytes)
    v128.store(carriedWeights, weight)
    v128.store(carriedWeights + lineBytes, last)
    v128.store(carriedWeights + 2 * lineBytes, second)
    for (let row: usize = 0; row < 2; row++) {
      const before = f32x4.add(f32x4.add(windowed(window, row + 6, third), windowed(window, row + 4, second)), windowed(window, row + 2, last))
      layRow(v128.load(carry), window, row, f32x4.add(windowed(window, row, weight), before), target)
      v128.store(carry, f32x4.add(windowed(window, row + 2, blockRow(row + 2)), v128.load(carry + 2 * lineBytes)))
      v128.store(carry + 2 * lineBytes, f32x4.add(windowed(window, row + 4, blockRow(row + 4)), v128.load(carry + 4 * lineBytes)))
      v128.store(carry + 4 * lineBytes, windowed(window, row + 6, blockRow(row + 6)))
      target += targetBytes
      carry += lineBytes
    }
  }
}

/**
 * All bands of a window from top to bottom. `scratch` holds what is carried from band to band (6 + 3 lines of the window's
 * width), then what a piece needs. `pilot` 0: hard thresholds in `amounts`; otherwise gains from it and variances in `amounts`.
 */
// @ts-ignore: decorator
@inline
function runBands(source: usize, guide: usize, stride: i32, pilot: usize, pilotStride: i32, target: usize, targetStride: i32, across: i32, down: i32, step: i32, amounts: usize, factors: usize, window: usize, scratch: usize, weighs: bool): void {

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
  scaleAmounts(amounts, scaledAmounts, weighs ? 2 : 1)
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
      for (const stop = min(end, (across - 1) * step + 1); x < stop; x += step) {
        const place: usize = <usize>(x - left)
        const factor = f32x4.splat(factorAt(guide + (<usize>x << 2), rowBytes, factors))
        if (weighs) weighBlock(spectra + (place << 5), pilotSpectra + (place << 5), scaledAmounts, f32x4.mul(factor, factor), window, shrunk + (place << 5), weighed + (place << 2))
        else shrinkBlock(spectra + (place << 5), scaledAmounts, factor, window, shrunk + (place << 5), weighed + (place << 2))
      }
      for (let i: usize = 0, width: usize = <usize>(end - left); i < width; i += 4)
        finishColumns(shrunk + (i << 5), weighed + (i << 2), step, window, scratch + at + (i << 2), carriedWeights + at + (i << 2), lineBytes, target + at + (i << 2), targetBytes)
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
  layRest(window, step, scratch, carriedWeights, lineBytes, target, targetBytes)
}

/** What the last bands have left below themselves. */
function layRest(window: usize, step: i32, carry: usize, carriedWeights: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  for (let row = 0; row < 8 - step; row++) {
    for (let i: usize = 0; i < lineBytes; i += 16) {
      let weights = f32x4.splat(0)
      // The oldest band that reaches the row first.
      for (let band = (7 - row) / step - 1; band >= 0; band--)
        weights = f32x4.add(weights, windowed(window, row + (band + 1) * step, v128.load(carriedWeights + <usize>band * lineBytes + i)))
      v128.store(target + i, f32x4.div(f32x4.mul(v128.load(carry + i), f32x4.splat(scaleBack)), weights))
    }
    carry += lineBytes
    target += targetBytes
  }
}

/**
 * Every pixel of a window from the shrunk blocks that cover it: their mean, where blocks that need few coefficients weigh more (as in
 * Dabov et al. 2007). Blocks begin at multiples of `step` (2, 4 or 8) of the source, whose stride the guide shares. `thresholds`: 64
 * floats, 8 times those of an orthonormal transform, frequencies down a column first; `factors`: 17 floats over the guide's brightness;
 * `window`: eight floats above 0: a block counts for that much more at a place, across and down; `scratch`: 9 floats a column and 6600 more.
 */
export function shrinkBlocks(source: usize, guide: usize, stride: i32, target: usize, targetStride: i32, blocksAcross: i32, blocksDown: i32, step: i32, thresholds: usize, factors: usize, window: usize, scratch: usize): void {
  runBands(source, guide, stride, 0, 0, target, targetStride, blocksAcross, blocksDown, step, thresholds, factors, window, scratch, false)
}

/**
 * The same in a second pass (Wiener's gains from the first one's result, as in Dabov et al. 2007). `variances`: 64 floats, 64
 * times those of an orthonormal transform, hardly above 0 for what is never shrunk.
 */
export function weighBlocks(source: usize, guide: usize, stride: i32, pilot: usize, pilotStride: i32, target: usize, targetStride: i32, blocksAcross: i32, blocksDown: i32, step: i32, variances: usize, factors: usize, window: usize, scratch: usize): void {
  runBands(source, guide, stride, pilot, pilotStride, target, targetStride, blocksAcross, blocksDown, step, variances, factors, window, scratch, true)
}
