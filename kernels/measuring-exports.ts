import type { Pointer } from './heap'

/** What pictures are measured with; the documentation stands with each function in kernels/assembly. */
export interface MeasuringExports {
  lumaLine(codes: Pointer, wide: 0 | 1, step: number, count: number, shares: Pointer, target: Pointer): void
  edgesAlong(line: Pointer, count: number, least: number, target: Pointer): number
  noiseOfBlock(codes: Pointer, wide: 0 | 1, step: number, rowBytes: number, shares: Pointer): number
  addLight(
    codes: Pointer,
    wide: 0 | 1,
    count: number,
    factor: number,
    step: number,
    reads: number,
    light: Pointer,
    r: Pointer,
    g: Pointer,
    b: Pointer,
  ): void
  slopeProducts(light: Pointer, width: number, height: number, xx: Pointer, xy: Pointer, yy: Pointer): void
  straightPlaces(
    xx: Pointer,
    yy: Pointer,
    meanXx: Pointer,
    meanXy: Pointer,
    meanYy: Pointer,
    width: number,
    height: number,
    margin: number,
    leastEnergy: number,
    leastCoherence: number,
    target: Pointer,
  ): number
  scoreLines(
    off: Pointer,
    along: Pointer,
    count: number,
    cosine: number,
    sine: number,
    lines: Pointer,
    lineCount: number,
    target: Pointer,
  ): void
  boxMeanRows(source: Pointer, target: Pointer, width: number, height: number, radius: number, shares: Pointer): void
  boxMeanColumns(source: Pointer, target: Pointer, width: number, height: number, radius: number, shares: Pointer, sums: Pointer): void
  guidedSlopes(
    guide: Pointer,
    square: Pointer,
    input: Pointer,
    product: Pointer,
    a: Pointer,
    b: Pointer,
    count: number,
    epsilon: number,
    sudden: 0 | 1,
  ): void
  countBuckets(values: Pointer, count: number, starts: Pointer): void
  gatherBuckets(values: Pointer, count: number, low: number, high: number, target: Pointer): number
  floatOfRank(values: Pointer, count: number, rank: number): number
  countAbove(r: Pointer, g: Pointer, b: Pointer, count: number, limit: number): number
  lightColours(
    r: Pointer,
    g: Pointer,
    b: Pointer,
    count: number,
    darkest: number,
    brightest: number,
    scale: number,
    cells: Pointer,
    luminance: Pointer,
  ): number
  countColours(cells: Pointer, luminance: Pointer, count: number, threshold: number, all: Pointer, bright: Pointer): void
  scoreLight(places: Pointer, weights: Pointer, count: number, table: Pointer, middle: number): number
  markCutOff(r: Pointer, g: Pointer, b: Pointer, target: Pointer, count: number, margin: number): void
  placeBlocks(
    light: Pointer,
    ends: Pointer,
    width: number,
    height: number,
    step: number,
    from: number,
    places: Pointer,
    means: Pointer,
    sums: Pointer,
  ): number
  transformBlocks(plane: Pointer, places: Pointer, widths: Pointer, count: number, target: Pointer, even: Pointer, odd: Pointer): void
  chooseFlattest(activity: Pointer, numbers: Pointer, count: number, rank: number, scratch: Pointer, target: Pointer): number
  squaresOfBlocks(
    coefficients: Pointer,
    numbers: Pointer,
    factors: Pointer,
    count: number,
    frequencies: Pointer,
    frequencyCount: number,
    target: Pointer,
  ): void
  pairsOf(firsts: Pointer, seconds: Pointer, target: Pointer): void
  reduceRows8(
    codes: Pointer,
    rowBytes: number,
    rows: number,
    cells: number,
    ends: Pointer,
    shares: Pointer,
    redGreens: Pointer,
    blueReds: Pointer,
    greenBlues: Pointer,
    columns: Pointer,
    r: Pointer,
    g: Pointer,
    b: Pointer,
  ): void
}
