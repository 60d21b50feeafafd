// Cosine-transform shrinkage of blocks that lie side by side in every band, bands and blocks half a block off from one band to the
// next: every pixel lies in two blocks.
import { pixels, pixelsOf, spectrumOf } from './block'
import { factorAt, scaleAmounts, scaleBack, shrinkOne, shrinkRest, sumOfCounts, sumOfLanes, weigh, windowAt } from './shrinkage'

const scaledThresholds = memory.data(256, 16)
const scaledVariances = memory.data(256, 16)
/** Coefficients: frequencies across 16 bytes apart, in the lanes the lower four of those down; the upper four 128 bytes on. */
const block = memory.data(256, 16)
const pilotBlock = memory.data(256, 16)

/** What bands leave for the one below: the lower halves of their blocks, four lines, and a line of the blocks' weights. */
const carriedLines: usize = 5

/** Four columns of eight rows, `rowStep` bytes apart, below what the band above has left there: the weighed mean of the two. */
// @ts-ignore: decorator
@inline
function layColumns(from: usize, rowStep: usize, weight: v128, window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  const above = v128.load(carry + 4 * lineBytes)
  v128.store(carry + 4 * lineBytes, weight)
  for (let row: usize = 0; row < 4; row++) {
    const upper = f32x4.mul(weight, windowAt(window, row))
    const lower = f32x4.mul(weight, windowAt(window, row + 4))
    const factor = f32x4.div(f32x4.splat(scaleBack), f32x4.add(upper, f32x4.mul(above, windowAt(window, row + 4))))
    v128.store(target, f32x4.mul(f32x4.add(f32x4.mul(v128.load(from), upper), v128.load(carry)), factor))
    v128.store(carry, f32x4.mul(v128.load(from + 4 * rowStep), lower))
    from += rowStep
    carry += lineBytes
    target += targetBytes
  }
}

/** Four columns that no block of this band covers. */
// @ts-ignore: decorator
@inline
function layNothing(window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  v128.store(pixels, f32x4.splat(0))
  layColumns(pixels, 0, f32x4.splat(0), window, carry, lineBytes, target, targetBytes)
}

/** The two halves of a block, that much of each. */
// @ts-ignore: decorator
@inline
function layBlock(from: usize, halfStep: usize, rowStep: usize, weight: f32, window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  const left = f32x4.mul(f32x4.splat(weight), v128.load(window))
  const right = f32x4.mul(f32x4.splat(weight), v128.load(window, 16))
  layColumns(from, rowStep, left, window, carry, lineBytes, target, targetBytes)
  layColumns(from + halfStep, rowStep, right, window, carry + 16, lineBytes, target + 16, targetBytes)
}

/** The noise's factors for the blocks of a band, one by one: both passes take them from here. */
function factorsOf(guide: usize, rowBytes: usize, x: usize, lineBytes: usize, factors: usize, to: usize): void {
  for (; x + 32 <= lineBytes; x += 32) {
    f32.store(to, factorAt(guide + x, rowBytes, factors))
    to += 4
  }
}

/** Hard thresholds on a band whose blocks begin at `x`, in bytes. Their coefficients go to `spectra`, `spectrumBytes` apart. */
function shrinkBand(source: usize, guide: usize, rowBytes: usize, x: usize, factors: usize, window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize, spectra: usize, spectrumBytes: usize, found: usize): void {
  if (x > 0) layNothing(window, carry, lineBytes, target, targetBytes)
  factorsOf(guide, rowBytes, x, lineBytes, factors, found)
  for (; x + 32 <= lineBytes; x += 32) {
    const factor = v128.load32_splat(found)
    found += 4
    spectrumOf(source + x, source + x + 4 * rowBytes, rowBytes, spectra)
    const first = shrinkOne(spectra, block, scaledThresholds, factor)
    const rest = shrinkRest(spectra, block, scaledThresholds, factor)
    const high = shrinkOne(spectra + 128, block + 128, scaledThresholds + 16, factor)
    const highRest = shrinkRest(spectra + 128, block + 128, scaledThresholds + 16, factor)
    const kept = -sumOfCounts(i32x4.add(i32x4.add(first, rest), i32x4.add(high, highRest)))
    const weight: f32 = 1 / <f32>max(kept, 1)
    if (kept == -i32x4.extract_lane(first, 0)) {
      // Nothing but the mean.
      v128.store(pixels, v128.load32_splat(block))
      layBlock(pixels, 0, 0, weight, window, carry + x, lineBytes, target + x, targetBytes)
    } else {
      pixelsOf(block)
      layBlock(pixels, 16, 32, weight, window, carry + x, lineBytes, target + x, targetBytes)
    }
    spectra += spectrumBytes
  }
  if (x < lineBytes) layNothing(window, carry + x, lineBytes, target + x, targetBytes)
}

/** Gains on such a band's coefficients, from the pixels that hard thresholds left: four rows in one place, four in another. */
function weighBand(spectra: usize, upper: usize, lower: usize, found: usize, x: usize, window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  if (x > 0) layNothing(window, carry, lineBytes, target, targetBytes)
  for (; x + 32 <= lineBytes; x += 32) {
    const relative = v128.load32_splat(found)
    const factor = f32x4.mul(relative, relative)
    found += 4
    spectrumOf(upper + x, lower + x, lineBytes, pilotBlock)
    const low = weigh(spectra, pilotBlock, scaledVariances, factor)
    const high = weigh(spectra + 128, pilotBlock + 128, scaledVariances + 16, factor)
    pixelsOf(spectra)
    const weight: f32 = 1 / Mathf.max(sumOfLanes(f32x4.add(low, high)), 1)
    layBlock(pixels, 16, 32, weight, window, carry + x, lineBytes, target + x, targetBytes)
    spectra += 256
  }
  if (x < lineBytes) layNothing(window, carry + x, lineBytes, target + x, targetBytes)
}

/** The lower halves of the last band. */
function layRest(window: usize, carry: usize, lineBytes: usize, target: usize, targetBytes: usize): void {
  for (let x: usize = 0; x < lineBytes; x += 16) layNothing(window, carry + x, lineBytes, target + x, targetBytes)
}

/**
 * As `shrinkBlocks`, with blocks that begin at every second multiple of 4, in every second row of blocks at the others. With `variances`
 * that are not 0, as `weighBlocks` behind it; the second pass runs a band behind the first one. `scratch`: 36 floats a column.
 */
export function shrinkStaggered(source: usize, guide: usize, stride: i32, target: usize, targetStride: i32, blocksAcross: i32, blocksDown: i32, thresholds: usize, variances: usize, factors: usize, window: usize, scratch: usize): void {
  const rowBytes: usize = <usize>stride << 2
  const targetBytes: usize = <usize>targetStride << 2
  const lineBytes: usize = <usize>(blocksAcross + 1) << 4
  const carry = scratch
  const secondCarry = scratch + carriedLines * lineBytes
  const pilot = secondCarry + carriedLines * lineBytes
  const spectra = pilot + 8 * lineBytes
  const found = spectra + 16 * lineBytes
  const bandBytes: usize = 4 * rowBytes
  scaleAmounts(thresholds, scaledThresholds, 1)
  memory.fill(scratch, 0, 2 * carriedLines * lineBytes)
  if (variances == 0) {
    for (let j = 0; j < blocksDown; j++) {
      shrinkBand(source, guide, rowBytes, (j & 1) << 4, factors, window, carry, lineBytes, target, targetBytes, block, 0, found)
      source += bandBytes
      guide += bandBytes
      target += 4 * targetBytes
    }
    layRest(window, carry, lineBytes, target, targetBytes)
    return
  }
  scaleAmounts(variances, scaledVariances, 2)
  for (let j = 0; j <= blocksDown; j++) {
    const isOdd = j & 1
    const here = pilot + <usize>isOdd * 4 * lineBytes
    const before = pilot + <usize>(1 - isOdd) * 4 * lineBytes
    if (j < blocksDown) shrinkBand(source, guide, rowBytes, isOdd << 4, factors, window, carry, lineBytes, here, lineBytes, spectra + <usize>isOdd * 8 * lineBytes, 256, found + <usize>isOdd * lineBytes)
    else layRest(window, carry, lineBytes, here, lineBytes)
    if (j > 0) {
      weighBand(spectra + <usize>(1 - isOdd) * 8 * lineBytes, before, here, found + <usize>(1 - isOdd) * lineBytes, (1 - isOdd) << 4, window, secondCarry, lineBytes, target, targetBytes)
      target += 4 * targetBytes
    }
    source += bandBytes
    guide += bandBytes
  }
  layRest(window, secondCarry, lineBytes, target, targetBytes)
}
