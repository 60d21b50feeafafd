import type { Size } from '@/base/geometry'
import { memoised } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import type { Vector3 } from '@/colour/matrix'
import type { LinearPicture } from '@/pixels/linear-picture'
import { boxMean } from '../support/grid'
import { type LabPlanes, labOf } from '../support/lab-planes'

/** Width of the border that is taken for background, of the short edge. */
const borderShare = 0.06
/** Half-width of the windows that drawing is looked for in, of the short edge. */
const windowShare = 0.02
/** How much drawing counts beside unlikeness to the background. */
const drawingWeight = 2
/** What stands out less than this, of the most, is background. */
const minShare = 0.25

/** Every second pixel of every second row: enough to find a place by. */
function thinned({ size, planes, kernels }: LinearPicture): LinearPicture {
  const small = { width: Math.ceil(size.width / 2), height: Math.ceil(size.height / 2) }
  const length = small.width * small.height
  const result = new Float32Array(3 * length)
  for (let c = 0; c < 3; c++)
    for (let y = 0; y < small.height; y++)
      for (let x = 0; x < small.width; x++)
        result[c * length + y * small.width + x] = floatAt(planes, (c * size.height + 2 * y) * size.width + 2 * x)
  return { size: small, planes: result, kernels }
}

/** How much each place of a picture belongs to its subject, 0 for the background: every second pixel of every second row. */
export interface SubjectMask {
  readonly size: Size
  readonly weights: Float32Array
  /** How much each place is unlike the border and drawn, before the background is taken off. */
  readonly salience: Float32Array
}

/**
 * What is unlike the border and finely drawn. A plain measure of saliency: distance in OKLab from the nearer edges' mean colour, plus
 * local contrast.
 */
export const subjectMask = memoised((whole: LinearPicture): SubjectMask => {
  const picture = thinned(whole)
  const { width, height } = picture.size
  const lab = labOf(picture)
  const border = Math.max(1, Math.round(Math.min(width, height) * borderShare))
  const radius = Math.max(1, Math.round(Math.min(width, height) * windowShare))
  // The background often runs from dark to bright: each side has its own mean colour.
  const sides = [
    { x0: 0, x1: width, y0: 0, y1: border },
    { x0: 0, x1: width, y0: height - border, y1: height },
    { x0: 0, x1: border, y0: 0, y1: height },
    { x0: width - border, x1: width, y0: 0, y1: height },
  ].map((side) => meanColour(lab, width, side))
  const light = lab[0]
  const mean = boxMean(picture.kernels, light, picture.size, radius)
  const squares = boxMean(
    picture.kernels,
    light.map((value) => value * value),
    picture.size,
    radius,
  )
  const [, greenRed, blueYellow] = lab
  const salience = light.map((lightness, i) => {
    const [a, b] = [floatAt(greenRed, i), floatAt(blueYellow, i)]
    let nearest = Number.POSITIVE_INFINITY
    for (const side of sides) nearest = Math.min(nearest, (side[0] - lightness) ** 2 + (side[1] - a) ** 2 + (side[2] - b) ** 2)
    const drawing = Math.sqrt(Math.max(0, floatAt(squares, i) - floatAt(mean, i) ** 2))
    return Math.sqrt(nearest) + drawingWeight * drawing
  })
  const smooth = boxMean(picture.kernels, salience, picture.size, radius)
  const max = smooth.reduce((best, value) => Math.max(best, value), 0)
  return { size: picture.size, salience: smooth, weights: smooth.map((value) => Math.max(0, value - minShare * max) ** 2) }
})

/** Where the subject of a picture lies, as shares of its sides: the centre of its mask, or the middle where there is none. */
export const findSubject = memoised((picture: LinearPicture): { readonly x: number; readonly y: number } => {
  const { size, weights } = subjectMask(picture)
  const { width, height } = size
  let [sum, sumX, sumY] = [0, 0, 0]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const weight = floatAt(weights, y * width + x)
      sum += weight
      sumX += weight * (x + 0.5)
      sumY += weight * (y + 0.5)
    }
  return sum < 1e-6 ? { x: 0.5, y: 0.5 } : { x: sumX / sum / width, y: sumY / sum / height }
})

interface Part {
  readonly x0: number
  readonly x1: number
  readonly y0: number
  readonly y1: number
}

function meanColour(lab: LabPlanes, width: number, { x0, x1, y0, y1 }: Part): Vector3 {
  const count = Math.max(1, (x1 - x0) * (y1 - y0))
  return mapTriple(lab, (plane) => {
    let sum = 0
    for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) sum += floatAt(plane, y * width + x)
    return sum / count
  })
}
