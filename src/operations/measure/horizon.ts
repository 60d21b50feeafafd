import type { Kernels } from '@kernels/binding'
import type { Heap, Pointer } from '@kernels/heap'
import { allocatePlane } from '@kernels/planes'
import { bisectLeft, bisectRight } from 'd3'
import { doubleAt, floatAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapTriple } from '@/base/tuples'
import type { LinearPicture } from '@/pixels/linear-picture'
import { windowMeans } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'

/** Angles tried. */
const stepDegrees = 0.05
/** Half-width of the windows that straightness is judged in, in pixels of the small copy. */
const windowRadius = 3
/** An edge counts if its window is this straight: 1 is a line and nothing else. */
const minCoherence = 0.9
/** Fainter edges, in squared lightness, are noise. */
const minEnergy = 2e-4
/** A pixel votes for a line if its own edge leans no further from it than this. */
const votesWithinDegrees = 1.5
/** A line's length, as a share of the short edge, below which it says nothing. */
const minLength = 0.45
/** The lines at the angle found must outweigh those that are level already, and the middle of all angles, this many times. */
const minOverLevel = 1.8
const minProminence = 3.2
/** Turns smaller than this are not worth the resampling. */
const minDegrees = 0.15

/** Edges that are nearly level, or nearly plumb, in the order of their lean, on the heap. */
interface Edges {
  /** Clockwise from level or plumb, in degrees. */
  readonly lean: Float64Array
  /** Places from the middle of the picture, as floats: off the line through it, and along that, a quarter turn clockwise from off. */
  readonly off: Pointer
  readonly along: Pointer
}

/**
 * How many degrees a picture must be turned clockwise to be level; 0 where its lines do not say so clearly.
 * @param maxDegrees larger tilts are left alone.
 */
export function findTilt(picture: LinearPicture, maxDegrees: number): number {
  return picture.kernels.heap.scope(() => tiltOf(picture, maxDegrees))
}

function tiltOf(picture: LinearPicture, maxDegrees: number): number {
  const { kernels, size } = picture
  const { width, height } = size
  const edges = straightEdges(picture, maxDegrees + votesWithinDegrees)
  const steps = Math.round(maxDegrees / stepDegrees)
  const reach = Math.ceil(Math.hypot(width, height) / 2) + 2
  const scoreAt = scorer(kernels, edges, 2 * reach + 1)
  const scores = Array.from({ length: 2 * steps + 1 }, (_, i) => scoreAt((i - steps) * stepDegrees))
  const energy = scores.map((score) => score.energy)
  const peak = energy.reduce((best, value, i) => (value > numberAt(energy, best) ? i : best), 0)
  const found = (peak - steps + offsetOfPeak(energy, peak)) * stepDegrees
  const best = present(scores[peak])
  const level = Math.max(...energy.slice(Math.max(0, steps - 2), steps + 3))
  const middle = doubleAt(Float64Array.from(energy).sort(), energy.length >> 1)
  if (Math.abs(peak - steps) > steps - 4) return 0
  const isClear =
    best.longest >= minLength * Math.min(width, height) && best.energy > minOverLevel * level && best.energy > minProminence * middle
  return isClear && Math.abs(found) >= minDegrees ? Math.round(-found * 20) / 20 + 0 : 0
}

/** Pixels on straight edges: those that are nearly level, and those that are nearly plumb. */
function straightEdges(picture: LinearPicture, maxLean: number): readonly [Edges, Edges] {
  const { kernels, size } = picture
  const { heap, run } = kernels
  const { width, height } = size
  const length = width * height
  const [level, plumb]: [FoundEdge[], FoundEdge[]] = [[], []]
  heap.scope(() => {
    const [light, xx, xy, yy, meanXx, meanXy, meanYy] = planesFor(heap, length)
    heap.f32(light, length).set(lightnessOf(picture))
    run.slopeProducts(light, width, height, xx, xy, yy)
    const meanOf = windowMeans(kernels, size, windowRadius)
    meanOf(xx, meanXx)
    meanOf(xy, meanXy)
    meanOf(yy, meanYy)
    const target = heap.allocate(length * 4)
    const count = run.straightPlaces(xx, yy, meanXx, meanXy, meanYy, width, height, windowRadius + 1, minEnergy, minCoherence, target)
    const [p, q, r] = mapTriple([meanXx, meanXy, meanYy], (plane) => heap.f32(plane, length))
    for (const i of heap.i32(target, count)) {
      const gradient = (Math.atan2(2 * floatAt(q, i), floatAt(p, i) - floatAt(r, i)) * 90) / Math.PI
      const isLevel = Math.abs(gradient) > 45
      const lean = isLevel ? gradient - Math.sign(gradient) * 90 : gradient
      if (Math.abs(lean) > maxLean) continue
      const [right, down] = [(i % width) - width / 2, Math.floor(i / width) - height / 2]
      if (isLevel) level.push({ lean, off: down, along: -right })
      else plumb.push({ lean, off: right, along: down })
    }
  })
  return [byLean(kernels, level), byLean(kernels, plumb)]
}

/** Room for planes of so many pixels, and the vectors that kernels touch behind them. */
const planesFor = (heap: Heap, length: number) => {
  const plane = (): Pointer => allocatePlane(heap, length, 1)
  return [plane(), plane(), plane(), plane(), plane(), plane(), plane()] as const
}

interface FoundEdge {
  readonly lean: number
  readonly off: number
  readonly along: number
}

function byLean({ heap }: Kernels, found: readonly FoundEdge[]): Edges {
  const sorted = found.toSorted((a, b) => a.lean - b.lean)
  const all = (key: keyof FoundEdge): number[] => sorted.map((edge) => edge[key])
  return { lean: Float64Array.from(all('lean')), off: heap.floats(all('off')), along: heap.floats(all('along')) }
}

interface Score {
  /** Sum of the squared lengths of all lines at this angle. */
  readonly energy: number
  readonly longest: number
}

/** Tells how much of the edges lies on common lines at an angle. */
function scorer({ heap, run }: Kernels, edges: readonly Edges[], lineCount: number): (degrees: number) => Score {
  const [lines, score] = [heap.allocate(lineCount * 4), heap.allocate(16)]
  return (degrees) => {
    const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
    const found = heap.f64(score, 2)
    found.fill(0)
    for (const { lean, off, along } of edges) {
      const start = bisectLeft(lean, degrees - votesWithinDegrees)
      const count = bisectRight(lean, degrees + votesWithinDegrees) - start
      run.scoreLines(off + start * 4, along + start * 4, count, c, s, lines, lineCount, score)
    }
    const [energy = 0, longest = 0] = found
    return { energy, longest }
  }
}

/** Where between three steps a parabola through them has its top. */
function offsetOfPeak(values: readonly number[], peak: number): number {
  const [left, middle, right] = [values[peak - 1], numberAt(values, peak), values[peak + 1]]
  if (left === undefined || right === undefined) return 0
  const bend = left - 2 * middle + right
  return bend === 0 ? 0 : (left - right) / (2 * bend)
}
