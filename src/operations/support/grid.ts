import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, allocatePlanes, copyPlane, type Planes, strideOf } from '@kernels/planes'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { numberAt } from '@/base/numbers'
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

/** OKLab lightness of a tile in linear light, on the heap, with the tile's stride. */
export function lightnessPlane({ heap, run }: Kernels, pixels: Planes): Pointer {
  const copy = { ...pixels, channels: allocatePlanes(heap, pixels.stride, pixels.height).channels }
  for (const [i, target] of copy.channels.entries()) copyPlane(heap, numberAt(pixels.channels, i), pixels.stride, 0, 0, target, copy)
  for (const { kernel, parameters } of conversion('linear', 'oklab'))
    run[kernel](...copy.channels, copy.stride * copy.height, heap.floats(parameters))
  return copy.channels[0]
}

/** One over how many of `length` places lie within a radius of each. */
const sharesOf = (length: number, radius: number): Float64Array =>
  Float64Array.from({ length }, (_, i) => 1 / (Math.min(i + radius, length - 1) - Math.max(i - radius, 0) + 1))

/** Writes the means of a plane's windows to another plane, or over itself. */
type MeanOf = (plane: Pointer, target: Pointer) => void

/** Means over windows of 2·radius + 1 pixels a side, at the edges over what there is of them; planes on the heap, rows without gaps. */
export function windowMeans({ heap, run }: Kernels, { width, height }: Size, radius: number): MeanOf {
  const [columns, rows] = [heap.doubles(sharesOf(width, radius)), heap.doubles(sharesOf(height, radius))]
  const [across, sums] = [heap.allocate(width * height * 4), heap.allocate(width * 8)]
  return (plane, target) => {
    run.boxMeanRows(plane, across, width, height, radius, columns)
    run.boxMeanColumns(across, target, width, height, radius, rows, sums)
  }
}

/** Means over windows of 2·radius + 1 pixels a side, at the edges over what there is of them; so many times over. */
export function boxMean(kernels: Kernels, plane: Float32Array, size: Size, radius: number, times = 1): Float32Array {
  const { heap } = kernels
  return heap.scope(() => {
    const at = heap.floats(plane)
    const meanOf = windowMeans(kernels, size, radius)
    for (let i = 0; i < times; i++) meanOf(at, at)
    return heap.f32(at, plane.length).slice()
  })
}

/**
 * The averaged coefficients a and b of a guided filter: a·guide + b is `input`, smoothed but for the edges of `guide` (He, Sun &
 * Tang 2010, equations 5, 6 and 8). Made on a small copy and spread over the picture, as in its fast form (He & Sun 2015).
 * @param epsilon variance of the guide below which a window counts as flat.
 * @param sudden whether a window's variance passes suddenly from flat to edge: its odds to the third power, not as published
 */
export function guidedCoefficients(
  kernels: Kernels,
  guide: Float32Array,
  input: Float32Array,
  size: Size,
  { radius, epsilon, sudden = false }: { readonly radius: number; readonly epsilon: number; readonly sudden?: boolean },
): Grid {
  const { heap, run } = kernels
  const count = strideOf(guide.length)
  return heap.scope(() => {
    const plane = (): Pointer => allocatePlane(heap, count, 1)
    const meanOf = windowMeans(kernels, size, radius)
    const [g, square] = [plane(), plane()]
    heap.f32(g, guide.length).set(guide)
    run.squarePlane(g, square, count)
    let [mean, product] = [g, square]
    if (guide !== input) {
      ;[mean, product] = [plane(), plane()]
      heap.f32(mean, input.length).set(input)
      run.multiplyPlanes(g, mean, product, count)
      meanOf(mean, mean)
      meanOf(product, product)
    }
    meanOf(g, g)
    meanOf(square, square)
    const [a, b] = [plane(), plane()]
    run.guidedSlopes(g, square, mean, product, a, b, count, epsilon, sudden ? 1 : 0)
    return {
      size,
      planes: [a, b].map((coefficients) => {
        meanOf(coefficients, coefficients)
        return heap.f32(coefficients, guide.length).slice()
      }),
    }
  })
}

/** Radius in a grid's cells of a length given as a share of the picture's long edge. */
export const gridRadius = ({ width, height }: Size, share: number): number => Math.max(1, Math.round(share * Math.max(width, height)))

/** Spreads guided coefficients over the tile and applies them to its own guide: base = a·guide + b. */
export function guidedBase(job: NeighbourhoodJob, grid: Grid, guide: Pointer, pixels: Planes): Pointer {
  const [a, b] = expandGrid(job, grid, pixels) as [Pointer, Pointer]
  job.kernels.run.affineOf(guide, a, b, a, pixels.stride * pixels.height)
  return a
}
