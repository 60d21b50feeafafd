import type { CodeExports } from './code-exports'
import type { Pointer } from './heap'
import type { MeasuringExports } from './measuring-exports'

/** A point function on three planes of `count` floats (a multiple of 4), in place; see kernels/assembly. */
export type PointKernel = (r: Pointer, g: Pointer, b: Pointer, count: number, parameters: Pointer) => void

export type PointKernelName =
  | 'toEncoded'
  | 'toLinear'
  | 'toOklab'
  | 'fromOklab'
  | 'matrix'
  | 'affine'
  | 'balance'
  | 'balanceKnown'
  | 'exposure'
  | 'levels'
  | 'contrast'
  | 'chromaGain'
  | 'vibrance'
  | 'splitTint'
  | 'curve'
  | 'lightTables'
  | 'curveFirst'
  | 'hueTable'
  | 'encodePower'
  | 'mapGamut'
  | 'mapGamutEncoded'
  | 'holdRange'
  | 'quantise'

/** Plane functions on windows, all strides in floats: input carries `reach` more on every side. */
type ConvolveKernel = (
  source: Pointer,
  sourceStride: number,
  target: Pointer,
  targetStride: number,
  width: number,
  height: number,
  weights: Pointer,
  reach: number,
) => void
type WindowKernel = (
  source: Pointer,
  sourceStride: number,
  target: Pointer,
  targetStride: number,
  width: number,
  height: number,
  reach: number,
  largest: 0 | 1,
) => void
/**
 * `from`: of each output, where among its input samples its surroundings begin; `count` of them, 0 for outputs that are not held; `beyond`: a
 * share of the root of the light.
 */
type ColumnsKernel = (
  source: Pointer,
  sourceStride: number,
  target: Pointer,
  targetStride: number,
  width: number,
  rows: number,
  starts: Pointer,
  weights: Pointer,
  taps: number,
  from: Pointer,
  count: number,
  beyond: number,
) => void
/** `side`: room for four rows of the input, in which they lie side by side. */
type RowsKernel = (
  source: Pointer,
  sourceStride: number,
  target: Pointer,
  targetStride: number,
  width: number,
  rows: number,
  starts: Pointer,
  weights: Pointer,
  taps: number,
  from: Pointer,
  count: number,
  beyond: number,
  side: Pointer,
) => void
type UnsharpKernel = (
  plane: Pointer,
  blurred: Pointer,
  lowest: Pointer,
  highest: Pointer,
  target: Pointer,
  width: number,
  amount: number,
  threshold: number,
  halo: number,
) => void
/** A point function that reads one more plane, made from each pixel's surroundings. */
type BasedKernel = (r: Pointer, g: Pointer, b: Pointer, base: Pointer, count: number, parameters: Pointer) => void

/** What kernels.wasm exports; the documentation stands with each function in kernels/assembly. */
export interface KernelExports extends Record<PointKernelName, PointKernel>, CodeExports, MeasuringExports {
  freeFrom(): Pointer
  mix(target: Pointer, base: Pointer, count: number, strength: number): void
  convolveRows: ConvolveKernel
  convolveColumns: ConvolveKernel
  windowRows: WindowKernel
  windowColumns: WindowKernel
  unsharpRow: UnsharpKernel
  crispRow: UnsharpKernel
  boxReduce(
    source: Pointer,
    sourceStride: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
    factor: number,
  ): void
  bilinearExpand(
    source: Pointer,
    sourceStride: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
    factor: number,
    offsetX: number,
    offsetY: number,
  ): void
  gainByTable: BasedKernel
  localContrast: BasedKernel
  haze: BasedKernel
  affineOf(guide: Pointer, a: Pointer, b: Pointer, target: Pointer, count: number): void
  clampPlane(plane: Pointer, count: number, lowest: number, highest: number): void
  addGrain(lightness: Pointer, grain: Pointer, count: number, amount: number): void
  placeGrain(target: Pointer, stride: number, width: number, height: number, x: number, y: number, seed: number): void
  radialGain(
    r: Pointer,
    g: Pointer,
    b: Pointer,
    stride: number,
    width: number,
    height: number,
    x: number,
    y: number,
    parameters: Pointer,
  ): void
  expandGrid(
    grid: Pointer,
    ends: Pointer,
    gridWidth: number,
    gridHeight: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
    stepX: number,
    stepY: number,
    x: number,
    y: number,
  ): void
  shrinkBlocks(
    source: Pointer,
    guide: Pointer,
    stride: number,
    target: Pointer,
    targetStride: number,
    blocksAcross: number,
    blocksDown: number,
    step: number,
    thresholds: Pointer,
    factors: Pointer,
    window: Pointer,
    scratch: Pointer,
  ): void
  weighBlocks(
    source: Pointer,
    guide: Pointer,
    stride: number,
    pilot: Pointer,
    pilotStride: number,
    target: Pointer,
    targetStride: number,
    blocksAcross: number,
    blocksDown: number,
    step: number,
    variances: Pointer,
    factors: Pointer,
    window: Pointer,
    scratch: Pointer,
  ): void
  shrinkStaggered(
    source: Pointer,
    guide: Pointer,
    stride: number,
    target: Pointer,
    targetStride: number,
    blocksAcross: number,
    blocksDown: number,
    thresholds: Pointer,
    variances: Pointer | 0,
    factors: Pointer,
    window: Pointer,
    scratch: Pointer,
  ): void
  shrinkGroups(
    source: Pointer,
    guide: Pointer,
    stride: number,
    pilot: Pointer,
    sums: Pointer,
    weights: Pointer,
    pilotStride: number,
    blocksAcross: number,
    blocksDown: number,
    step: number,
    reach: number,
    most: number,
    variances: Pointer,
    factors: Pointer,
    window: Pointer,
  ): void
  shareGroups(sums: Pointer, weights: Pointer, target: Pointer, count: number): void
  addBand(target: Pointer, upper: Pointer, lower: Pointer, count: number, gain: number, threshold: number): void
  weighPlanes(r: Pointer, g: Pointer, b: Pointer, target: Pointer, count: number, weights: Pointer): void
  feedback(seen: Pointer, expected: Pointer, target: Pointer, count: number, threshold: number): void
  multiplyPlanes(a: Pointer, b: Pointer, target: Pointer, count: number): void
  followLight(r: Pointer, g: Pointer, b: Pointer, before: Pointer, after: Pointer, count: number, max: number): void
  squarePlane(source: Pointer, target: Pointer, count: number): void
  selfGuided(mean: Pointer, a: Pointer, b: Pointer, count: number, epsilon: number): void
  despeckleRow(source: Pointer, stride: number, target: Pointer, width: number, distance: number, threshold: number): void
  warpRow(
    r: Pointer,
    g: Pointer,
    b: Pointer,
    stride: number,
    left: number,
    top: number,
    pictureWidth: number,
    pictureHeight: number,
    targetR: Pointer,
    targetG: Pointer,
    targetB: Pointer,
    width: number,
    x: number,
    y: number,
    matrix: Pointer,
  ): void
  mixMasked(target: Pointer, base: Pointer, mask: Pointer, count: number, strength: number): void
  limitRange(values: Pointer, mask: Pointer, count: number, from: number, to: number, softness: number): void
  limitColour(
    a: Pointer,
    b: Pointer,
    mask: Pointer,
    count: number,
    u: number,
    v: number,
    inner: number,
    outer: number,
    minChroma: number,
  ): void
  limitEnergy(energy: Pointer, mask: Pointer, count: number, from: number, to: number): void
  squareDifference(a: Pointer, b: Pointer, target: Pointer, count: number): void
  limitLinear(
    mask: Pointer,
    stride: number,
    width: number,
    height: number,
    x: number,
    y: number,
    alongX: number,
    alongY: number,
    start: number,
  ): void
  limitRadial(
    mask: Pointer,
    stride: number,
    width: number,
    height: number,
    x: number,
    y: number,
    centreX: number,
    centreY: number,
    perX: number,
    perY: number,
    inner: number,
  ): void
  joinMasks(mask: Pointer, other: Pointer, count: number, how: 0 | 1 | 2, inverted: 0 | 1): void
  lookTable(r: Pointer, g: Pointer, b: Pointer, count: number, table: Pointer, size: number): void
  blendStamp(r: Pointer, g: Pointer, b: Pointer, stamp: Pointer, count: number, opacity: number, blend: number): void
  readScan(from: Pointer, to: Pointer, plan: Pointer, tables: Pointer, stretches: Pointer): Pointer
  halvePlane(source: Pointer, sourceStride: number, target: Pointer, targetStride: number, width: number, height: number): void
  followHalf(
    half: Pointer,
    halfStride: number,
    base: Pointer,
    baseStride: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
    scratch: Pointer,
  ): void
  meanProducts(
    first: Pointer,
    firstStride: number,
    second: Pointer,
    secondStride: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
  ): void
  halveAndLose(
    source: Pointer,
    sourceStride: number,
    target: Pointer,
    lost: Pointer,
    targetStride: number,
    width: number,
    height: number,
  ): void
  doublePlane(half: Pointer, halfStride: number, target: Pointer, targetStride: number, width: number, height: number): void
  solveFollow(moments: Pointer, target: Pointer, planeBytes: number, count: number, parameters: Pointer, factors: Pointer): void
  shareHalf(
    shares: Pointer,
    sharesStride: number,
    sharesPlane: number,
    clean: Pointer,
    cleanStride: number,
    noisy: Pointer,
    noisyStride: number,
    target: Pointer,
    targetStride: number,
    targetPlane: number,
    width: number,
    height: number,
  ): void
  layColour(
    half: Pointer,
    halfStride: number,
    halfPlane: number,
    light: Pointer,
    lightStride: number,
    colour: Pointer,
    colourStride: number,
    target: Pointer,
    targetStride: number,
    width: number,
    height: number,
  ): void
  tileCurves(
    plane: Pointer,
    stride: number,
    width: number,
    height: number,
    curves: Pointer,
    tilesAcross: number,
    tilesDown: number,
    stepX: number,
    stepY: number,
    x: number,
    y: number,
  ): void
  copyTurned(source: Pointer, stepX: number, stepY: number, target: Pointer, targetStride: number, width: number, height: number): void
  /** `left` … `bottom`: the part of the plane that there is, in its own pixels, ends not included. */
  repeatEdges(plane: Pointer, stride: number, width: number, height: number, left: number, top: number, right: number, bottom: number): void
  resampleColumns: ColumnsKernel
  resampleRows: RowsKernel
}
