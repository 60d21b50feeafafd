import { quantile } from 'd3'
import { codeAt, doubleAt } from '@/base/numbers'
import type { Codes } from './linear-picture'

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

/** Blocks that noise is looked for in, evenly spread: this many a side. Their edge is no multiple of a JPEG block's, whose grid is met at all phases. */
const blocksAcross = 18
const blockEdge = 21
/** Of all blocks those that count as smooth. */
const smoothShare = 0.1
/** A block with a pixel nearer to the ends than this, in levels, has its noise cut off. */
const cutOff = 4

const hundredth = (value: number): number => Math.round(value * 100) / 100

/** Sharpness and noise of finished pixels. */
export function detailOf(codes: Codes): Detail {
  const { width, height } = codes.size
  if (Math.min(width, height) < 4 * blockEdge) return {}
  const lightAt = lightReader(codes)
  const edges: number[] = []
  const [rowStep, columnStep] = [Math.max(1, height / lines), Math.max(1, width / lines)]
  for (let y = 0; y < height; y += rowStep) edgesAlong(lightAt, Math.floor(y) * width, 1, width, edges)
  for (let x = 0; x < width; x += columnStep) edgesAlong(lightAt, Math.floor(x), width, height, edges)
  const noises: number[] = []
  for (let row = 0; row < blocksAcross; row++)
    for (let column = 0; column < blocksAcross; column++) {
      const left = Math.round((column / (blocksAcross - 1)) * (width - blockEdge))
      const top = Math.round((row / (blocksAcross - 1)) * (height - blockEdge))
      const noise = noiseOf(lightAt, top * width + left, width)
      if (noise !== undefined) noises.push(noise)
    }
  const [sharpness, noise] = [edges.length < minEdges ? undefined : quantile(edges, sharpShare), quantile(noises, smoothShare)]
  return {
    ...(sharpness === undefined ? {} : { sharpnessPercent: hundredth(100 * Math.min(1, sharpness)) }),
    ...(noise === undefined ? {} : { noiseLevels: hundredth(noise) }),
  }
}

/** Luma of a pixel (ITU-R BT.601), in levels of 8 bits. */
function lightReader({ values, channels }: Codes): (pixel: number) => number {
  const scale = values.BYTES_PER_ELEMENT === 2 ? 255 / 65_535 : 1
  const [red, green, blue] = [0.299 * scale, 0.587 * scale, 0.114 * scale]
  return (pixel) => {
    const at = pixel * channels
    return red * codeAt(values, at) + green * codeAt(values, at + 1) + blue * codeAt(values, at + 2)
  }
}

/** Of each edge along a line, what share of its step lies within one pixel. */
function edgesAlong(lightAt: (pixel: number) => number, start: number, stride: number, length: number, found: number[]): void {
  const line = new Float64Array(length)
  for (let i = 0; i < length; i++) line[i] = lightAt(start + i * stride)
  const stepAt = (i: number): number => Math.abs(doubleAt(line, i + reach) - doubleAt(line, i - reach))
  for (let i = reach; i < length - reach; i++) {
    let step = stepAt(i)
    if (step < minStep) continue
    // The crest of this edge: no further one within twice the reach is steeper.
    let crest = i
    for (let j = i + 1; j < Math.min(length - reach, crest + 2 * reach); j++) {
      const other = stepAt(j)
      if (other > step) [step, crest] = [other, j]
    }
    let steepest = 0
    for (let j = crest - reach; j < crest + reach; j++) steepest = Math.max(steepest, Math.abs(doubleAt(line, j + 1) - doubleAt(line, j)))
    found.push(steepest / step)
    i = crest + 2 * reach
  }
}

/** Noise of a block by the mask of Immerkær 1996; nothing where it is cut off. */
function noiseOf(lightAt: (pixel: number) => number, start: number, width: number): number | undefined {
  const light = new Float64Array(blockEdge * blockEdge)
  for (let y = 0; y < blockEdge; y++)
    for (let x = 0; x < blockEdge; x++) {
      const value = lightAt(start + y * width + x)
      if (value < cutOff || value > 255 - cutOff) return undefined
      light[y * blockEdge + x] = value
    }
  let sum = 0
  for (let y = 1; y < blockEdge - 1; y++)
    for (let x = 1; x < blockEdge - 1; x++) {
      const at = y * blockEdge + x
      const above = doubleAt(light, at - blockEdge - 1) - 2 * doubleAt(light, at - blockEdge) + doubleAt(light, at - blockEdge + 1)
      const here = doubleAt(light, at - 1) - 2 * doubleAt(light, at) + doubleAt(light, at + 1)
      const below = doubleAt(light, at + blockEdge - 1) - 2 * doubleAt(light, at + blockEdge) + doubleAt(light, at + blockEdge + 1)
      sum += Math.abs(above - 2 * here + below)
    }
  return (Math.sqrt(Math.PI / 2) * sum) / (6 * (blockEdge - 2) ** 2)
}
