import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { quantile } from 'd3'
import { bringRows, type Codes, isWide, pixelBytesOf } from './codes'
import { quantilesOnHeap } from './linear-picture'

/** How fine the drawing of a picture is, and how much noise lies over it. */
export interface Detail {
  /** Of a sharp edge's step, what lies within one pixel. Nothing where there are too few edges to tell. */
  readonly sharpnessPercent?: number
  /** Deviation of noise in the smoothest places, in levels of 8 bits. */
  readonly noiseLevels?: number
}

/** Rows and columns that edges are looked for in, evenly spread: this many each. */
const lines = 300
/** An edge's step is taken over this many pixels to either side, and counts from this many levels on: finer ones may be noise. */
const reach = 4
const minStep = 60
const minEdges = 12
/** Of all edges those that tell how sharp a picture is: its sharpest, since what lies before and behind the subject is soft anyway. */
const sharpShare = 0.97

/** Blocks that noise is looked for in, evenly spread: this many a side. Their edge, which the kernels know, is no multiple of a JPEG block's, whose grid is met at all phases. */
const blocksAcross = 18
const blockEdge = 21
/** Of all blocks those that count as smooth. */
const smoothShare = 0.1

const hundredth = (value: number): number => Math.round(value * 100) / 100

/** Shares of red, green and blue in luma (ITU-R BT.601), to levels of 8 bits. */
const luma = [0.299, 0.587, 0.114] as const
/** Sixteen bits to a level of eight. */
const levelsOfWide = 255 / 65_535

/** Rows that are brought to the kernels at a time. */
const rowsBrought = 32
/** An edge takes up more than this many places of a line. */
const placesOfEdge = 2 * reach

/** Sharpness and noise of finished pixels. */
export function detailOf(kernels: Kernels, codes: Codes): Detail {
  if (Math.min(codes.size.width, codes.size.height) < 4 * blockEdge) return {}
  return kernels.heap.scope(() => {
    const shares = kernels.heap.floats(luma.map((share) => share * (isWide(codes) ? levelsOfWide : 1)))
    const [sharpness, noise] = [sharpnessOf(kernels, codes, shares), noiseOf(kernels, codes, shares)]
    return {
      ...(sharpness === undefined ? {} : { sharpnessPercent: hundredth(100 * Math.min(1, sharpness)) }),
      ...(noise === undefined ? {} : { noiseLevels: hundredth(noise) }),
    }
  })
}

/** Whole numbers from 0 to below `length`, `step` apart and rounded down. */
function spread(length: number, step: number): number[] {
  const places: number[] = []
  for (let place = 0; place < length; place += step) places.push(Math.floor(place))
  return places
}

/** What of its sharpest edges lies within one pixel. All rows are read once, in the order in which they lie in memory. */
function sharpnessOf(kernels: Kernels, codes: Codes, shares: Pointer): number | undefined {
  const { heap, run } = kernels
  const { width, height } = codes.size
  const rows = new Set(spread(height, Math.max(1, height / lines)))
  const columns = spread(width, Math.max(1, width / lines))
  const pixelBytes = pixelBytesOf(codes)
  const rowBytes = width * pixelBytes
  const edges = heap.allocate(4 * (rows.size * Math.ceil(width / placesOfEdge) + columns.length * Math.ceil(height / placesOfEdge)))
  const [brought, row, light] = [
    heap.allocate(rowsBrought * rowBytes),
    heap.allocate(width * 4),
    heap.allocate(columns.length * height * 4),
  ]
  let found = 0
  for (let top = 0; top < height; top += rowsBrought) {
    const count = Math.min(rowsBrought, height - top)
    bringRows(heap, codes, top, count, brought)
    for (const [i, x] of columns.entries())
      run.lumaLine(brought + x * pixelBytes, isWide(codes), rowBytes, count, shares, light + (i * height + top) * 4)
    for (let y = top; y < top + count; y++) {
      if (!rows.has(y)) continue
      run.lumaLine(brought + (y - top) * rowBytes, isWide(codes), pixelBytes, width, shares, row)
      found += run.edgesAlong(row, width, minStep, edges + found * 4)
    }
  }
  for (let i = 0; i < columns.length; i++) found += run.edgesAlong(light + i * height * 4, height, minStep, edges + found * 4)
  return found < minEdges ? undefined : quantilesOnHeap(kernels, edges, found, [sharpShare])[0]
}

/** Noise of the smoothest blocks; nothing where all are cut off. */
function noiseOf({ heap, run }: Kernels, codes: Codes, shares: Pointer): number | undefined {
  const { width, height } = codes.size
  const pixelBytes = pixelBytesOf(codes)
  const brought = heap.allocate(blockEdge * width * pixelBytes)
  const noises: number[] = []
  const startOf = (block: number, length: number): number => Math.round((block / (blocksAcross - 1)) * (length - blockEdge))
  for (let down = 0; down < blocksAcross; down++) {
    bringRows(heap, codes, startOf(down, height), blockEdge, brought)
    for (let across = 0; across < blocksAcross; across++) {
      const at = brought + startOf(across, width) * pixelBytes
      const noise = run.noiseOfBlock(at, isWide(codes), pixelBytes, width * pixelBytes, shares)
      if (noise >= 0) noises.push(noise)
    }
  }
  return quantile(noises, smoothShare)
}
