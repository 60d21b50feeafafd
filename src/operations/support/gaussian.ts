import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, strideOf } from '@kernels/planes'

/** A window of one plane with `reach` more on every side than the output. */
export interface PlaneWindow {
  readonly source: Pointer
  readonly stride: number
  readonly reach: number
  /** Output size and its place in the picture. */
  readonly width: number
  readonly height: number
  readonly x: number
  readonly y: number
}

/** Where a Gaussian is cut: its tails beyond hold 5e-4 of the weight. */
const tailSigmas = 3.5
/** Wider than this, the blur is made on a reduced copy: within 1/1000 of the direct one, several times faster. */
const widestDirectSigma = 6
/** The copy is reduced until its blur is about this wide, so that reducing and enlarging stay invisible. */
const reducedSigma = 3

interface BlurPlan {
  /** Reduction factor, a power of two; 1 = direct. */
  readonly factor: number
  /** Sigma on the reduced copy. */
  readonly sigma: number
  /** Kernel half-width on the reduced copy. */
  readonly reach: number
}

/**
 * How to blur by `sigma`. Averaging factor² pixels adds a variance of (factor² − 1)/12, interpolating back
 * linearly adds factor²/6 (variances of the box and of the triangle); the reduced blur makes up the rest.
 */
function blurPlan(sigma: number): BlurPlan {
  const factor = sigma <= widestDirectSigma ? 1 : 2 ** Math.floor(Math.log2(sigma / reducedSigma))
  const rest = factor === 1 ? sigma : Math.sqrt(sigma ** 2 - (factor ** 2 - 1) / 12 - factor ** 2 / 6) / factor
  return { factor, sigma: rest, reach: Math.max(1, Math.ceil(tailSigmas * rest)) }
}

/** Pixels a Gaussian of `sigma` needs on every side. */
export function gaussianReach(sigma: number): number {
  const { factor, reach } = blurPlan(sigma)
  return factor === 1 ? reach : (reach + 2) * factor
}

/** Centre weight, then outwards; the whole kernel sums to one. */
export function gaussianWeights(sigma: number, reach: number): Float64Array {
  const weights = Float64Array.from({ length: reach + 1 }, (_, k) => Math.exp(-(k * k) / (2 * sigma * sigma)))
  const sum = weights.reduce((total, weight, k) => total + (k === 0 ? weight : 2 * weight), 0)
  return weights.map((weight) => weight / sum)
}

/** Blurs a window; returns a plane of the output's size, stride `strideOf(width)`, on the heap. */
export function gaussianBlur(kernels: Kernels, window: PlaneWindow, sigma: number): Pointer {
  const target = allocatePlane(kernels.heap, window.width, window.height)
  kernels.heap.scope(() => {
    const { factor, sigma: rest, reach } = blurPlan(sigma)
    if (factor === 1) convolve(kernels, inset(window, reach), target, rest, reach)
    else blurReduced(kernels, window, target, factor, rest, reach)
  })
  return target
}

/** The same window seen with a smaller reach. */
function inset(window: PlaneWindow, reach: number): PlaneWindow {
  const extra = window.reach - reach
  return { ...window, source: window.source + (extra * window.stride + extra) * 4, reach }
}

function convolve({ run, heap }: Kernels, w: PlaneWindow, target: Pointer, sigma: number, reach: number): void {
  const weights = heap.floats(gaussianWeights(sigma, reach))
  const rows = w.height + 2 * reach
  const middle = allocatePlane(heap, w.width, rows)
  const stride = strideOf(w.width)
  run.convolveRows(w.source, w.stride, middle, stride, stride, rows, weights, reach)
  run.convolveColumns(middle, stride, target, stride, stride, w.height, weights, reach)
}

/** Reduced cells lie at multiples of `factor` of the picture, whatever the tile. */
function blurReduced(kernels: Kernels, w: PlaneWindow, target: Pointer, factor: number, sigma: number, reach: number): void {
  const { run, heap } = kernels
  const firstX = Math.floor((w.x + 0.5) / factor - 0.5)
  const firstY = Math.floor((w.y + 0.5) / factor - 0.5)
  const width = Math.floor((w.x + w.width - 0.5) / factor - 0.5) + 2 - firstX
  const height = Math.floor((w.y + w.height - 0.5) / factor - 0.5) + 2 - firstY
  const [wide, high] = [width + 2 * reach, height + 2 * reach]
  const reduced = allocatePlane(heap, wide, high)
  const left = (firstX - reach) * factor - (w.x - w.reach)
  const top = (firstY - reach) * factor - (w.y - w.reach)
  run.boxReduce(w.source + (top * w.stride + left) * 4, w.stride, reduced, strideOf(wide), wide, high, factor)
  const blurred = allocatePlane(heap, width, height)
  convolve(kernels, { source: reduced, stride: strideOf(wide), reach, width, height, x: 0, y: 0 }, blurred, sigma, reach)
  run.bilinearExpand(
    blurred,
    strideOf(width),
    target,
    strideOf(w.width),
    w.width,
    w.height,
    factor,
    w.x - firstX * factor,
    w.y - firstY * factor,
  )
}
