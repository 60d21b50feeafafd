import { quantile } from 'd3'
import { codeAt, doubleAt, integerAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
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
  const edges: number[] = []
  const [rowStep, columnStep] = [Math.max(1, height / lines), Math.max(1, width / lines)]
  const [row, block] = [new Float64Array(width), new Float64Array(blockEdge ** 2)]
  for (let y = 0; y < height; y += rowStep) edgesAlong(readLight(codes, Math.floor(y) * width, row), edges)
  for (const column of readColumns(codes, columnStep)) edgesAlong(column, edges)
  const noises: number[] = []
  for (let down = 0; down < blocksAcross; down++)
    for (let across = 0; across < blocksAcross; across++) {
      const left = Math.round((across / (blocksAcross - 1)) * (width - blockEdge))
      const top = Math.round((down / (blocksAcross - 1)) * (height - blockEdge))
      for (let y = 0; y < blockEdge; y++) readLight(codes, (top + y) * width + left, block.subarray(y * blockEdge, (y + 1) * blockEdge))
      const noise = noiseOf(block)
      if (noise !== undefined) noises.push(noise)
    }
  const [sharpness, noise] = [edges.length < minEdges ? undefined : quantile(edges, sharpShare), quantile(noises, smoothShare)]
  return {
    ...(sharpness === undefined ? {} : { sharpnessPercent: hundredth(100 * Math.min(1, sharpness)) }),
    ...(noise === undefined ? {} : { noiseLevels: hundredth(noise) }),
  }
}

/** Shares of red, green and blue in luma (ITU-R BT.601), to levels of 8 bits. */
const lumaOf = (values: Codes['values']): readonly [number, number, number] =>
  mapTriple([0.299, 0.587, 0.114], (share) => (values.BYTES_PER_ELEMENT === 2 ? (share * 255) / 65_535 : share))

/** Luma of pixels in a row, in levels of 8 bits: from one on, as many as there is room for. */
function readLight({ values, channels }: Codes, from: number, light: Float64Array): Float64Array {
  const [red, green, blue] = lumaOf(values)
  for (let i = 0, at = from * channels; i < light.length; i++, at += channels)
    light[i] = red * codeAt(values, at) + green * codeAt(values, at + 1) + blue * codeAt(values, at + 2)
  return light
}

/** The same of columns that lie `step` pixels apart. All are read row by row, as they lie in memory. */
function readColumns({ values, channels, size: { width, height } }: Codes, step: number): Float64Array[] {
  const [red, green, blue] = lumaOf(values)
  const places: number[] = []
  for (let x = 0; x < width; x += step) places.push(Math.floor(x) * channels)
  const light = new Float64Array(places.length * height)
  const offsets = Int32Array.from(places)
  for (let y = 0; y < height; y++)
    for (let i = 0, to = y; i < offsets.length; i++, to += height) {
      const at = y * width * channels + integerAt(offsets, i)
      light[to] = red * codeAt(values, at) + green * codeAt(values, at + 1) + blue * codeAt(values, at + 2)
    }
  return places.map((_, i) => light.subarray(i * height, (i + 1) * height))
}

/** How much lighter or darker it is behind a place of a line than before it. */
const stepAt = (line: Float64Array, i: number): number => Math.abs(doubleAt(line, i + reach) - doubleAt(line, i - reach))

/** Of each edge along a line, what share of its step lies within one pixel. */
function edgesAlong(line: Float64Array, found: number[]): void {
  const { length } = line
  for (let i = reach; i < length - reach; i++) {
    const difference = doubleAt(line, i + reach) - doubleAt(line, i - reach)
    if (difference < minStep && difference > -minStep) continue
    let step = Math.abs(difference)
    // The crest of this edge: no further one within twice the reach is steeper.
    let crest = i
    for (let j = i + 1; j < Math.min(length - reach, crest + 2 * reach); j++) {
      const other = stepAt(line, j)
      if (other > step) [step, crest] = [other, j]
    }
    let steepest = 0
    for (let j = crest - reach; j < crest + reach; j++) steepest = Math.max(steepest, Math.abs(doubleAt(line, j + 1) - doubleAt(line, j)))
    found.push(steepest / step)
    i = crest + 2 * reach
  }
}

/** Noise of a block by the mask of Immerkær 1996; nothing where it is cut off. */
function noiseOf(light: Float64Array): number | undefined {
  for (const value of light) if (value < cutOff || value > 255 - cutOff) return undefined
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
