import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, allocatePlanes, copyPlane, type Planes } from '@kernels/planes'
import type { Size } from '@/base/geometry'
import { lruCached, memoised } from '@/base/lru-cache'
import { doubleAt, floatAt, numberAt } from '@/base/numbers'
import { coneToLab, workingToCone } from '@/colour/oklab'
import type { LinearPicture } from '@/pixels/linear-picture'
import type { Domain, Effect, Grid, NeighbourhoodJob } from '../declare/operation'
import { conversion } from './domains'

type Neighbourhood = Extract<Effect, { kind: 'neighbourhood' }>

/**
 * An effect that needs no neighbours but knows each pixel's place. `apply` works on the output, which holds the input. Its rows may lie
 * further apart than they are wide: planes made beside it must lie alike.
 */
export function byPosition(domain: Domain, apply: (job: NeighbourhoodJob, pixels: Planes) => void): Neighbourhood {
  return {
    kind: 'neighbourhood',
    domain,
    inPlace: true,
    reach: () => 0,
    apply: (job) => {
      const { input, output, kernels, reach } = job
      if (input !== output)
        for (const [i, target] of output.channels.entries())
          copyPlane(kernels.heap, numberAt(input.channels, i), input.stride, reach, reach, target, output)
      apply(job, output)
    },
  }
}

/** For each column of a grid, the first pixel of the picture that lies beyond its cell; the same for every tile. */
const cellEndsOf = (columns: number, stepX: number): Int32Array =>
  Int32Array.from({ length: columns }, (_, column) => Math.ceil((column + 1.5) / Math.fround(stepX) - 0.5))
const cellEnds = new Map<string, Int32Array>()
const maxCellEnds = 8

/** Spreads a grid's planes over the tile, linearly between its cells. */
export function expandGrid(
  { kernels, frame, x, y }: Pick<NeighbourhoodJob, 'kernels' | 'frame' | 'x' | 'y'>,
  { size, planes }: Grid,
  pixels: Planes,
): Pointer[] {
  const { heap, run } = kernels
  const [stepX, stepY] = [size.width / frame.width, size.height / frame.height]
  const ends = heap.integers(lruCached(cellEnds, `${size.width} ${frame.width}`, maxCellEnds, () => cellEndsOf(size.width, stepX)))
  return planes.map((plane) => {
    const target = allocatePlane(heap, pixels.stride, pixels.height)
    heap.scope(() => {
      // Only the grid's rows that the tile lies on; their addresses are those they would have in the whole grid.
      const rowAt = (row: number): number => Math.min(size.height - 1, Math.max(0, Math.floor((row + 0.5) * stepY - 0.5)))
      const [first, last] = [Math.max(0, rowAt(y) - 1), Math.min(size.height, rowAt(y + pixels.height) + 3)]
      const at = heap.floats(plane.subarray(first * size.width, last * size.width)) - first * size.width * 4
      run.expandGrid(at, ends, size.width, size.height, target, pixels.stride, pixels.width, pixels.height, stepX, stepY, x, y)
    })
    return target
  })
}

/** OKLab lightness of a picture. */
export const lightnessOf = memoised(({ size, planes }: LinearPicture): Float32Array => {
  const length = size.width * size.height
  const [m, weights] = [workingToCone, coneToLab]
  const lightness = new Float32Array(length)
  for (let i = 0; i < length; i++) {
    const r = floatAt(planes, i)
    const g = floatAt(planes, length + i)
    const b = floatAt(planes, 2 * length + i)
    lightness[i] =
      weights[0] * Math.cbrt(m[0] * r + m[1] * g + m[2] * b) +
      weights[1] * Math.cbrt(m[3] * r + m[4] * g + m[5] * b) +
      weights[2] * Math.cbrt(m[6] * r + m[7] * g + m[8] * b)
  }
  return lightness
})

/** OKLab lightness of a tile in linear light, on the heap, with the tile's stride. */
export function lightnessPlane({ heap, run }: Kernels, pixels: Planes): Pointer {
  const copy = { ...pixels, channels: allocatePlanes(heap, pixels.stride, pixels.height).channels }
  for (const [i, target] of copy.channels.entries()) copyPlane(heap, numberAt(pixels.channels, i), pixels.stride, 0, 0, target, copy)
  for (const { kernel, parameters } of conversion('linear', 'oklab'))
    run[kernel](...copy.channels, copy.stride * copy.height, heap.floats(parameters))
  return copy.channels[0]
}

/** Means over windows of 2·radius + 1 pixels a side, at the edges over what there is of them. */
export function boxMean(plane: Float32Array, { width, height }: Size, radius: number): Float32Array {
  const across = new Float32Array(plane.length)
  const shares = sharesOf(width, radius)
  for (let y = 0; y < height; y++) {
    const start = y * width
    let sum = 0
    for (let x = 0; x < Math.min(radius, width); x++) sum += floatAt(plane, start + x)
    // What comes in, what comes in and goes out, what goes out: no question is asked in the middle.
    const full = Math.max(0, width - radius)
    const filled = Math.min(radius + 1, full)
    let x = 0
    for (; x < filled; x++) {
      sum += floatAt(plane, start + x + radius)
      across[start + x] = sum * doubleAt(shares, x)
    }
    for (; x < full; x++) {
      sum += floatAt(plane, start + x + radius) - floatAt(plane, start + x - radius - 1)
      across[start + x] = sum * doubleAt(shares, x)
    }
    for (; x < width; x++) {
      if (x > radius) sum -= floatAt(plane, start + x - radius - 1)
      across[start + x] = sum * doubleAt(shares, x)
    }
  }
  // Down the columns a row at a time: in the order in which they lie in memory.
  const result = new Float32Array(plane.length)
  const sums = new Float64Array(width)
  const rows = sharesOf(height, radius)
  for (let y = 0; y < Math.min(radius, height); y++) addRow(sums, across, y * width, 1)
  for (let y = 0; y < height; y++) {
    const share = doubleAt(rows, y)
    const [coming, going, to] = [(y + radius) * width, (y - radius - 1) * width, y * width]
    if (y > radius && y + radius < height)
      for (let x = 0; x < width; x++) {
        const sum = doubleAt(sums, x) + floatAt(across, coming + x) - floatAt(across, going + x)
        sums[x] = sum
        result[to + x] = sum * share
      }
    else {
      if (y + radius < height) addRow(sums, across, coming, 1)
      if (y > radius) addRow(sums, across, going, -1)
      for (let x = 0; x < width; x++) result[to + x] = doubleAt(sums, x) * share
    }
  }
  return result
}

/** What lies from `start` on, added to the sums, or taken off them. */
function addRow(sums: Float64Array, plane: Float32Array, start: number, sign: 1 | -1): void {
  for (let x = 0; x < sums.length; x++) sums[x] = doubleAt(sums, x) + sign * floatAt(plane, start + x)
}

/** One over how many of `length` places lie within a radius of each. */
const sharesOf = (length: number, radius: number): Float64Array =>
  Float64Array.from({ length }, (_, i) => 1 / (Math.min(i + radius, length - 1) - Math.max(i - radius, 0) + 1))

const product = (a: Float32Array, b: Float32Array): Float32Array => {
  const result = new Float32Array(a.length)
  for (let i = 0; i < result.length; i++) result[i] = floatAt(a, i) * floatAt(b, i)
  return result
}

/**
 * The averaged coefficients a and b of a guided filter: a·guide + b is `input`, smoothed but for the edges of `guide` (He, Sun &
 * Tang 2010, equations 5, 6 and 8). Made on a small copy and spread over the picture, as in its fast form (He & Sun 2015).
 * @param epsilon variance of the guide below which a window counts as flat.
 * @param steepness how sudden a window's variance passes from flat to edge: 1 as published
 */
export function guidedCoefficients(
  guide: Float32Array,
  input: Float32Array,
  size: Size,
  { radius, epsilon, steepness = 1 }: { readonly radius: number; readonly epsilon: number; readonly steepness?: number },
): Grid {
  const mean = (plane: Float32Array): Float32Array => boxMean(plane, size, radius)
  const alike = guide === input
  const meanGuide = mean(guide)
  const meanSquare = mean(product(guide, guide))
  const meanInput = alike ? meanGuide : mean(input)
  const meanProduct = alike ? meanSquare : mean(product(guide, input))
  const [a, b] = [new Float32Array(guide.length), new Float32Array(guide.length)]
  for (let i = 0; i < a.length; i++) {
    const [g, p] = [floatAt(meanGuide, i), floatAt(meanInput, i)]
    const [variance, covariance] = [floatAt(meanSquare, i) - g * g, floatAt(meanProduct, i) - g * p]
    const spread = Math.max(variance, 0)
    // covariance ÷ (variance + ε), where the share of the variance in that sum is raised.
    const slope =
      steepness === 1 ? covariance / (spread + epsilon) : (covariance / (spread + tiny)) * steepShare(spread / epsilon, steepness)
    a[i] = slope
    b[i] = p - slope * g
  }
  return { size, planes: [mean(a), mean(b)] }
}

const tiny = 1e-9
function steepShare(ratio: number, steepness: number): number {
  // A product where it is one: a general power takes ten times as long.
  const raised = steepness === 3 ? ratio * ratio * ratio : ratio ** steepness
  return raised / (1 + raised)
}

/** Radius in a grid's cells of a length given as a share of the picture's long edge. */
export const gridRadius = ({ width, height }: Size, share: number): number => Math.max(1, Math.round(share * Math.max(width, height)))

/** Spreads guided coefficients over the tile and applies them to its own guide: base = a·guide + b. */
export function guidedBase(job: NeighbourhoodJob, grid: Grid, guide: Pointer, pixels: Planes): Pointer {
  const [a, b] = expandGrid(job, grid, pixels) as [Pointer, Pointer]
  job.kernels.run.affineOf(guide, a, b, a, pixels.stride * pixels.height)
  return a
}
